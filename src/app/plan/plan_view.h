// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLineEdit>
#include <QTimer>
#include <QWidget>
#include <memory>
#include <optional>

#include "app/desk/document.h"
#include "app/plan/background_scene.h"
#include "app/plan/plan_scene.h"
#include "app/plan/plan_theme.h"
#include "app/plan/plan_water.h"

namespace culvert::app {

class PlanTool;

constexpr int plan_shades = 4;  ///< classes of a graded colour

/// Where a click would take hold.
struct Snap {
    enum class To { Free, Structure, Pipe, Street, Background, Grid };
    QPointF at;  ///< metres
    To to = To::Free;
    std::uint64_t id = 0;  ///< of the element
    double station = 0;    ///< along a pipe or a street
};
/// What clicks take hold of beside structures and pipes, and the grid's spacing, m.
struct SnapOptions {
    bool streets = true, background = true, grid = false;
    double spacing = 1;
};
/// What the plan shows of the ground.
struct GroundShow {
    bool contours = true, low_points = true, arrows = false, background = true;
};

/// The plan: pan with the middle button or space, zoom on the pointer, snap, tools, labels, legend.
///
/// A frame is painted into a cached picture; panning moves that picture and paints the strips, and the whole again when
/// the hand rests.
class PlanView : public QWidget {
    Q_OBJECT
  public:
    PlanView(Document& document, QWidget* parent = nullptr);
    ~PlanView() override;

    [[nodiscard]] Document& document() { return document_; }
    [[nodiscard]] const PlanScene& scene() const { return scene_; }
    [[nodiscard]] QPointF to_screen(QPointF metres) const;
    /// Water along the curbs, as it was painted last; for tests.
    [[nodiscard]] const PlanWater& water() const { return water_; }
    [[nodiscard]] QPointF to_metres(QPointF screen) const;
    [[nodiscard]] double scale() const { return scale_; }  ///< pixels a metre
    /// Metres that a few pixels span: how near the pointer must be to hit.
    [[nodiscard]] double reach() const { return 9 / scale_; }
    /// The structure under the pointer, or the point itself.
    [[nodiscard]] QPointF snapped(QPointF screen, std::uint64_t* structure = nullptr) const;
    /// Structure, pipe, street, background, grid, in that order; Alt takes hold of nothing. With Shift and a place to
    /// start from, the direction keeps to steps of 15 degrees.
    [[nodiscard]] Snap snap(QPointF screen, Qt::KeyboardModifiers keys = {}, std::optional<QPointF> from = {}) const;
    [[nodiscard]] SnapOptions& snap_options() { return snap_options_; }
    [[nodiscard]] GroundShow& ground_show() { return ground_show_; }
    [[nodiscard]] const BackgroundScene& background() const { return background_; }
    void stale();  ///< the cached picture no longer holds
    /// What the pointer is at, m.
    [[nodiscard]] QPointF pointer() const { return to_metres(pointer_); }
    /// The entry at the pointer: opened by typing a figure while a tool takes places.
    [[nodiscard]] QLineEdit* typed() const { return typed_; }

    void zoom_to_all();
    void zoom_at(QPointF screen, double factor);
    void pan_by(QPointF pixels);
    void show_element(ElementRef element);
    void look_at(QPointF metres);  ///< brings a place into view, near enough to work at
    /// The same part of the plan as another view shows.
    void look_like(const PlanView& other);

    void set_tool(const QString& name);  ///< the names of make_tool in plan_tool.h
    [[nodiscard]] QString tool_name() const;
    [[nodiscard]] PlanTool& tool() { return *tool_; }
    void set_plan_theme(const PlanTheme& theme);
    /// Ponds are drawn as they stand at this time of the event, s; NaN: as high as they come.
    void set_water_time(double seconds);
    [[nodiscard]] double pond_level(const EventResult& result, StructureId structure) const;
    [[nodiscard]] const PlanTheme& plan_theme() const { return theme_; }
    /// How structures are marked at this scale: stamps, small ones, dots, or not at all.
    enum class Marks { Full, Small, Dots, None };
    [[nodiscard]] Marks marks() const { return marks_; }
    /// What the last frame wrote: for tests of what can be read.
    [[nodiscard]] const std::vector<std::pair<QString, QRectF>>& labels() const { return labels_; }
    [[nodiscard]] const std::vector<QRectF>& street_names() const { return street_names_; }
    [[nodiscard]] bool smooth_pipes() const { return smooth_pipes_; }
    [[nodiscard]] QStringList legend() const { return legend_; }
    [[nodiscard]] QString tip_of(ElementRef element) const;

    void set_readout(const QString& text);
    [[nodiscard]] QString readout() const { return readout_; }
    /// Paints a full frame into a picture; what the benchmark times.
    void render_frame(QPainter& painter);
    /// One step of a pan from the cached picture; what the benchmark times.
    void paint_cached(QPainter& painter);

  signals:
    void tool_changed();
    void view_changed();
    void resized();
    void readout_changed();
    void menu_wanted(culvert::ElementRef element, QPoint at);
    void pipe_laid(culvert::PipeId pipe);  ///< by a tool, into a structure that stood
    void said(const QString& words);       ///< by a tool: what could not be done and why
    void preview_wanted(const QString& what, culvert::Edit edit);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    bool event(QEvent*) override;

  private:
    struct PipeLook {
        Verdict verdict = Verdict::Unknown;
        int shade = -1;  ///< class of a graded colour, -1: by verdict
        double value = not_given;
        bool against = false;  ///< water runs against the drawn direction
        bool known = false;    ///< found for the results that are shown
    };
    void paint_ground(QPainter& p, const QRectF& view);
    void paint_background(QPainter& p, const QRectF& view);
    void paint_streets(QPainter& p, const QRectF& view);
    [[nodiscard]] double bypass_along(std::uint64_t path) const;
    [[nodiscard]] QPolygonF path_line(const PlanPath& path) const;  ///< as it is drawn, in pixels
    void paint_paths(QPainter& p, const QRectF& view);
    void paint_buried(QPainter& p, const QRectF& view);
    void paint_clashes(QPainter& p, const QRectF& view);
    void paint_readout(QPainter& p);
    void open_typed(const QString& first);
    void take_typed();
    bool eventFilter(QObject* watched, QEvent* event) override;
    void forget_looks();
    [[nodiscard]] const PipeLook& pipe_look(std::size_t i);
    [[nodiscard]] Verdict structure_look(std::size_t i);
    void measure_marks(const QRectF& view);
    void paint_areas(QPainter& p, const QRectF& view);
    void paint_ponds(QPainter& p);
    double water_time_ = not_given;
    void paint_covers(QPainter& p, const QRectF& view, const ResultClasses& classes);
    void paint_flow_parts(QPainter& p, const PlanArea& area);
    void paint_pipes(QPainter& p, const QRectF& view);
    [[nodiscard]] QPen pipe_pen(const PipeLook& look, double width) const;
    void paint_real_outline(QPainter& p, const PlanStructure& s, bool beyond);
    void paint_structures(QPainter& p, const QRectF& view);
    void paint_labels(QPainter& p, const QRectF& view);
    void paint_selection(QPainter& p);
    void paint_legend(QPainter& p);
    void paint_scale_bar(QPainter& p);
    void paint_empty(QPainter& p);
    const QPixmap& stamp(StructureKind kind, Verdict verdict, bool idle);
    [[nodiscard]] QColor shade_colour(int shade) const;

    Document& document_;
    PlanScene scene_;
    PlanWater water_;
    std::unique_ptr<PlanTool> tool_, retired_;  ///< a tool that asks for another lives until it has returned
    QPointF centre_{0, 0};                      ///< metres at the middle of the widget
    double scale_ = 1;
    bool fitted_ = false;    ///< a part was chosen, by the program or by hand
    bool fits_all_ = false;  ///< everything is in view, and stays so when the room changes
    PlanTheme theme_;
    Colouring colouring_;
    Marks marks_ = Marks::Full;
    double spacing_ = 100;  ///< pixels between neighbours, in the middle
    std::vector<std::pair<QString, QRectF>> labels_;
    std::vector<QRectF> street_names_;
    bool smooth_pipes_ = true;  ///< drawn one by one with smooth edges
    QStringList legend_;
    std::vector<PipeLook> pipe_looks_;
    std::vector<signed char> structure_looks_;  ///< a Verdict, -1: not looked up yet
    std::shared_ptr<const EventResult> looked_result_;
    std::shared_ptr<const Review> looked_review_;
    Results looked_all_;
    unsigned scene_version_ = 0;
    QString looked_by_;
    QPixmap cache_;
    QPointF cache_offset_;
    bool cache_good_ = false, panning_ = false, space_ = false;
    QPointF pan_from_;
    BackgroundScene background_;
    SnapOptions snap_options_;
    GroundShow ground_show_;
    QPointF pointer_;
    QLineEdit* typed_;
    QTimer settle_, late_;
    QString readout_;
    std::map<std::tuple<int, int, int, bool>, QPixmap> stamps_;
};

}  // namespace culvert::app
