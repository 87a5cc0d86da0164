// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTimer>
#include <QWidget>
#include <memory>

#include "app/document.h"
#include "app/plan_scene.h"

namespace culvert::app {

class PlanTool;

/// What the plan's colours mean.
enum class ColourBy { Verdict, FlowRatio, FilledDepth, Velocity, Freeboard, ServiceLevel };

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
    [[nodiscard]] QPointF to_metres(QPointF screen) const;
    [[nodiscard]] double scale() const { return scale_; }  ///< pixels a metre
    /// Metres that a few pixels span: how near the pointer must be to hit.
    [[nodiscard]] double reach() const { return 9 / scale_; }
    /// The structure under the pointer, or the point itself.
    [[nodiscard]] QPointF snapped(QPointF screen, std::uint64_t* structure = nullptr) const;

    void zoom_to_all();
    void zoom_at(QPointF screen, double factor);
    void pan_by(QPointF pixels);
    void show_element(ElementRef element);

    void set_tool(const QString& name);  ///< "select", "draw", "area", "measure"
    [[nodiscard]] QString tool_name() const;
    [[nodiscard]] PlanTool& tool() { return *tool_; }
    void set_colour_by(ColourBy by);
    [[nodiscard]] ColourBy colour_by() const { return colour_by_; }
    static QString colour_name(ColourBy by);
    static QString colour_help(ColourBy by);

    void set_readout(const QString& text);
    [[nodiscard]] QString readout() const { return readout_; }
    /// Paints a full frame into a picture; what the benchmark times.
    void render_frame(QPainter& painter);
    /// One step of a pan from the cached picture; what the benchmark times.
    void paint_cached(QPainter& painter);

  signals:
    void tool_changed();
    void readout_changed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
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
    void stale();  ///< the cached picture no longer holds
    void forget_looks();
    [[nodiscard]] const PipeLook& pipe_look(std::size_t i);
    [[nodiscard]] Verdict structure_look(std::size_t i);
    void paint_areas(QPainter& p, const QRectF& view);
    void paint_pipes(QPainter& p, const QRectF& view);
    void paint_structures(QPainter& p, const QRectF& view);
    void paint_labels(QPainter& p, const QRectF& view);
    void paint_selection(QPainter& p);
    void paint_legend(QPainter& p);
    void paint_scale_bar(QPainter& p);
    void paint_empty(QPainter& p);
    const QPixmap& stamp(StructureKind kind, Verdict verdict);
    [[nodiscard]] QColor shade_colour(int shade) const;

    Document& document_;
    PlanScene scene_;
    std::unique_ptr<PlanTool> tool_;
    QPointF centre_{0, 0};  ///< metres at the middle of the widget
    double scale_ = 1;
    bool fitted_ = false;
    ColourBy colour_by_ = ColourBy::Verdict;
    std::vector<PipeLook> pipe_looks_;
    std::vector<signed char> structure_looks_;  ///< a Verdict, -1: not looked up yet
    std::shared_ptr<const EventResult> looked_result_;
    std::shared_ptr<const Review> looked_review_;
    Results looked_all_;
    unsigned scene_version_ = 0;
    ColourBy looked_by_ = ColourBy::Verdict;
    QPixmap cache_;
    QPointF cache_offset_;
    bool cache_good_ = false, panning_ = false, space_ = false;
    QPointF pan_from_;
    QTimer settle_, late_;
    QString readout_;
    std::map<std::pair<int, int>, QPixmap> stamps_;
};

/// A tool of the plan: takes mouse and keys, paints its preview over the plan. Esc backs out one step.
class PlanTool {
  public:
    explicit PlanTool(PlanView& view) : view_(view) {}
    virtual ~PlanTool() = default;
    [[nodiscard]] virtual QString name() const = 0;
    [[nodiscard]] virtual QString hint() const = 0;
    virtual void press(QMouseEvent*) {}
    virtual void move(QMouseEvent*) {}
    virtual void release(QMouseEvent*) {}
    virtual void double_click(QMouseEvent*) {}
    virtual bool key(QKeyEvent*) { return false; }  ///< true: taken
    virtual void paint(QPainter&) {}

  protected:
    PlanView& view_;
};
std::unique_ptr<PlanTool> make_tool(const QString& name, PlanView& view);

/// The kind of structure that the draw tool places next.
class DrawTool;
void set_draw_kind(PlanView& view, StructureKind kind);
StructureKind draw_kind(PlanView& view);

}  // namespace culvert::app
