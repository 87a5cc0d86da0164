// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"
#include "app/desk/task.h"
#include "core/design/storage_study.h"
#include "core/network/through_time.h"

class QComboBox;
class QPushButton;

namespace culvert::app {

/// Time as hours and minutes from the beginning of the rain.
QString clock_text(double seconds);

/// A pond in section with its outlets and the water at a chosen time, and beside it what runs through it: rain hanging
/// from the top on its own axis, what comes, what leaves, what is allowed, the level. Of a structure without a pond:
/// what arrives there in all events. Other pictures of the same: outflow by level, space by level, flow by flow.
///
/// The time line below the chart is dragged, or stepped by the arrow keys; outlets are dragged up and down in the
/// section, and the curve follows. The wheel looks closer.
class StorageView : public QWidget {
    Q_OBJECT
  public:
    enum class Picture { Time, Rating, Space, InOut };
    explicit StorageView(Document& document, QWidget* parent = nullptr);

    [[nodiscard]] StructureId structure() const { return structure_; }
    /// Time of the cursor, s from the beginning of the rain.
    [[nodiscard]] double time() const { return time_; }
    void set_time(double seconds);  ///< `time_chosen` says so
    [[nodiscard]] QString readout() const { return readout_; }
    [[nodiscard]] QComboBox* pictures() const { return pictures_; }
    /// What is charted of the viewed event, by its key; null where it is not there.
    [[nodiscard]] const Series* series(std::string_view key) const;
    /// Volume that lies between what comes and what is allowed, m3; NaN where nothing is allowed.
    [[nodiscard]] double required() const { return required_; }
    /// Place of an outlet in the section; an empty one where it is not drawn.
    [[nodiscard]] QRectF outlet_place(std::uint64_t outlet) const;
    [[nodiscard]] QPointF chart_place(double time, double flow) const;
    [[nodiscard]] QString table() const;
    /// The picture as SVG, PDF or PNG by the ending of its name. What failed, in words; empty if nothing.
    QString save(const QString& path);
    /// A variant whose hydrographs at the same structure stand beside: the site before. 0 for the base; none: nothing.
    void set_before(std::optional<std::uint64_t> variant);
    [[nodiscard]] std::optional<std::uint64_t> before() const { return before_variant_; }
    /// What left there before in the viewed event; null until it is known.
    [[nodiscard]] const Series* before_series() const;
    /// How long a level is exceeded, s; and the largest flow with its time: the usual questions in words.
    [[nodiscard]] QString answers() const;

  signals:
    void outlet_wanted(culvert::StructureId structure);  ///< the first one, or another
    void time_chosen(double seconds);                    ///< the water is shown at this time

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override;

  private:
    struct Axis {
        double least = 0, most = 1;
    };
    void choose();
    void gather();
    void seek_others();
    void seek_before();
    [[nodiscard]] const PondNode* pond() const;
    [[nodiscard]] double at_time(std::string_view key, double time) const;
    [[nodiscard]] QRectF section_area() const;
    [[nodiscard]] QRectF chart_area() const;
    [[nodiscard]] double section_y(double level) const;
    void paint_all(QPainter& p);
    void paint_section(QPainter& p);
    void paint_time(QPainter& p);
    void paint_curve(QPainter& p);
    void paint_empty(QPainter& p, const QString& words);
    void drag_outlet(double y);
    void say_at(double time);

    Document& document_;
    QComboBox* pictures_;
    QPushButton* begin_;  ///< what fills the view where it is empty
    StructureId structure_;
    std::vector<Series> series_;           ///< of the viewed event
    std::vector<SiteHydrographs> others_;  ///< of all events, where they are known
    std::uint64_t others_of_ = 0;          ///< revision of others_
    double allowed_ = not_given, required_ = not_given;
    double time_ = -1, first_ = 0, last_ = 1;  ///< shown part of the time, s
    bool zoomed_ = false, dirty_ = true, dragging_time_ = false;
    std::uint64_t dragged_ = 0;
    double drag_from_ = 0, drag_level_ = 0, drag_low_ = 0;
    QString readout_;
    struct Mark {
        std::uint64_t outlet;
        QRectF rect;
        QString words;
    };
    std::vector<Mark> marks_;
    Axis section_, flow_;
    std::optional<std::uint64_t> before_variant_;
    QString before_name_;
    std::vector<SiteHydrographs> before_;
    std::uint64_t before_of_ = 0;
    Task seeker_{this}, before_seeker_{this};
};

}  // namespace culvert::app
