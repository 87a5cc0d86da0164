// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTimer>
#include <QToolButton>
#include <QWidget>

#include <functional>

#include "app/desk/document.h"
#include "app/profile/profile_table.h"
#include "core/design/level_snaps.h"
#include "drawing/profile_sheet.h"

class QLineEdit;
class QMenu;

namespace culvert::app {

/// Scale of the profile's files: 1 to so much along the run, and in height; a choice of the person.
struct FileScale {
    double across = 500, up = 50;
};
FileScale profile_file_scale();

/// The profile of the run through the selection, with a level table below. Pipe ends and rims are dragged here: ends
/// catch on the levels that meet there (Alt: they do not), with Shift the whole run moves. While a change is shown that
/// is not taken yet, the levels that stand are drawn thin under it. Two selected structures
/// show the part between them; inverts are typed in the table (double click, or F2).
class ProfileView : public QWidget {
    Q_OBJECT
  public:
    ProfileView(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] const Profile& profile() const { return profile_; }
    [[nodiscard]] QPointF to_screen(Point p) const;
    /// Handle of a pipe's end or a rim on screen, for tests: empty where the run has none.
    [[nodiscard]] QPointF handle_at(ElementRef element, const char* field) const;
    /// Revision of the results last painted, for tests that time the way from an edit to the picture.
    [[nodiscard]] std::uint64_t painted_revision() const { return painted_revision_; }
    /// The part of the run that is shown, m along it.
    [[nodiscard]] double shown_from() const { return from_; }
    [[nodiscard]] double shown_to() const { return to_; }
    void zoom_at(double screen_x, double factor);
    void pan_by(double pixels);
    void show_whole_run();
    /// What the last frame wrote: names, and cells of the level table with the head of their row; for tests.
    [[nodiscard]] const std::vector<std::pair<QString, QRectF>>& names() const { return names_; }
    [[nodiscard]] const std::vector<std::pair<QString, QRectF>>& cells() const { return cells_; }
    [[nodiscard]] QStringList table_heads() const { return heads_; }
    /// What crosses the run, as it was painted last: name and outline.
    [[nodiscard]] const std::vector<std::pair<QString, QRectF>>& crossings() const { return crossings_; }
    /// Who takes a dragged end of a pipe in place of a change of its invert, where it wants it: a run being graded.
    using Taker = std::function<bool(PipeId pipe, bool start, double level)>;
    void set_taker(Taker taker) { taker_ = std::move(taker); }
    /// What draws the run as shown at true scale, with all it needs: to be called on any thread.
    std::function<ProfileSheet()> sheet(double across, double up);
    /// The grade lines of all other events, thin beside the viewed one's.
    void set_all_events(bool on);
    [[nodiscard]] bool all_events() const { return all_events_; }
    struct OtherGradeLine {
        std::string event;
        std::vector<std::vector<Point>> parts;  ///< one a barrel: distance, level
    };
    [[nodiscard]] const std::vector<OtherGradeLine>& other_events() const { return others_; }
    /// Rows of the level table.
    void choose_rows(const QStringList& keys);
    /// Opens the cell of an end's level for typing; false where the table does not show it.
    bool edit_level(PipeId pipe, bool lower);
    [[nodiscard]] QRectF typed_cell(PipeId pipe, bool lower) const;
    [[nodiscard]] QLineEdit* editor() const { return editor_; }
    /// A branch that joins the run: its last pipe, the structure that leaves from, where it joins, and its place in the
    /// head of the view; empty where there is no room.
    struct Join {
        PipeId pipe;
        QString name, at;
        QRectF place;
    };
    [[nodiscard]] const std::vector<Join>& joins() const { return joins_; }
    void show_next_branch();
    /// Keeps the run that is shown by name; shows one that was kept.
    void keep_run();
    void show_run(const ProfileRun& run);
    QMenu* make_menu();
    void open_menu();
    void set_measuring(bool on);
    [[nodiscard]] bool measuring() const { return measuring_; }
    /// Distance, height and slope between the two places measured last; empty where there are none.
    [[nodiscard]] QString measured() const;
    /// What a drag has caught on, in words.
    [[nodiscard]] QString readout() const { return readout_; }
    /// What was cut off the scale, and why; empty where nothing was.
    [[nodiscard]] QString cut() const { return cut_; }

  signals:
    void menu_wanted(culvert::ElementRef element, QPoint at);
    void painted();
    void refused(const QString& why);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    struct TypedCell {
        PipeId pipe;
        bool lower = false;
        QRectF cell;
    };
    [[nodiscard]] Profile run_of(const Network& net, const EventResult* r, const Review* review) const;
    void take_run(const Network& net, const EventResult* r, const Review* review);
    void find_joins(const Network& net);
    void paint_joins(QPainter& p, double from, double to);
    [[nodiscard]] const Join* join_at(QPointF at) const;
    std::vector<Join> joins_;
    bool take_level();
    void close_editor();
    [[nodiscard]] std::size_t rows_shown() const;
    [[nodiscard]] double table_height() const;
    [[nodiscard]] Point place_at(QPointF at) const;
    void paint_measure(QPainter& p);
    struct Handle {
        ElementRef element;
        const char* field;
        Point at;
    };
    void rebuild();
    void find_ground();
    void find_other_events();
    void paint_other_events(QPainter& p);
    void fit_levels();
    void paint_head(QPainter& p);
    void paint_grid(QPainter& p);
    void paint_ground(QPainter& p);
    void paint_drawing(QPainter& p);
    void paint_committed(QPainter& p);
    void paint_crossings(QPainter& p);
    void paint_crossing(QPainter& p, std::size_t reach, const Clash& clash, ElementRef what, double along, double top,
                        double bottom);
    void drag_to(double level, Qt::KeyboardModifiers keys);
    void paint_names(QPainter& p);
    [[nodiscard]] int importance(std::size_t station) const;
    void paint_table(QPainter& p, const QRectF& area);
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] double level_at(double screen_y) const;
    [[nodiscard]] std::vector<Handle> handles() const;
    [[nodiscard]] ElementRef element_at(QPointF at) const;

    Document& document_;
    Profile profile_;
    std::vector<Point> existing_, finished_;  ///< ground along the run: distance, level
    std::vector<OtherGradeLine> others_;
    bool all_events_ = false;
    bool dirty_ = true;
    QTimer late_;  ///< paints a change whose results keep one waiting
    std::uint64_t painted_revision_ = 0;
    std::shared_ptr<const EventResult> painted_result_;
    ElementRef through_;
    double from_ = 0, to_ = 0;  ///< part shown; all of it where they are equal
    double spacing_ = 100;      ///< pixels between stations, in the middle
    std::vector<std::pair<QString, QRectF>> names_, cells_, crossings_;
    QStringList heads_;
    std::vector<double> marks_taken_;  ///< pixels across where a crossing stands
    QString cut_;
    bool panning_ = false;
    Handle held_{};
    double held_level_ = 0;             ///< of the handle, when the drag began
    std::vector<LevelSnap> snaps_;      ///< levels that a drag catches on
    std::optional<Profile> committed_;  ///< the run without the change that is shown: drawn thin under it
    Taker taker_;
    bool taken_ = false;  ///< the drag is the taker's
    QPointF pressed_;
    bool down_ = false, dragging_ = false;
    QString readout_;
    std::vector<TableRow> rows_;
    std::vector<TypedCell> typed_cells_;
    QLineEdit* editor_ = nullptr;
    TypedCell edited_;
    QToolButton* menu_ = nullptr;
    std::optional<std::pair<StructureId, StructureId>> between_;
    bool measuring_ = false;
    std::optional<std::pair<Point, Point>> measured_;
};

/// Writes PDF, SVG or DXF by the ending of the name, from any thread. Empty, or what went wrong.
QString write_sheet(const ProfileSheet& sheet, const QString& path);
/// The same for any drawing; `letters` is the height of texts in a DXF.
QString write_paper(const DisplayList& list, double width, double height, double letters, const QString& path);

}  // namespace culvert::app
