// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QScrollArea>
#include <QVBoxLayout>
#include <functional>

#include "app/card/card_part.h"
#include "app/desk/document.h"
#include "app/entry/field_edit.h"
#include "app/entry/multi_edit.h"

namespace culvert::app {

/// A painted part of the card. `draw` paints for a width and returns the height it takes; places it names are
/// clickable.
class Canvas : public QWidget {
    Q_OBJECT
  public:
    struct Place {
        QRectF rect;
        QString tip;
        std::function<void()> click;
    };
    using Draw = std::function<double(QPainter&, double width, std::vector<Place>& places)>;
    Canvas(const QString& name, Draw draw, QWidget* parent = nullptr);
    void refresh();
    [[nodiscard]] const std::vector<Place>& places() const { return places_; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    bool event(QEvent*) override;

  private:
    Draw draw_;
    std::vector<Place> places_;
};

/// What stands beside the name in the head of a card: "inlet, abandoned"; "3 barrels, 80.00 m".
QString head_words(const Structure& structure);
QString head_words(const Project& project, const Pipe& pipe);

/// The selected element: its drawing with water, the size ladder, verdict bars, why the water stands, service level,
/// levels and inputs. It is built anew when the selection changes and refreshed when values do.
class Card : public QScrollArea {
    Q_OBJECT
  public:
    Card(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] FieldEdit* field(Kind kind, const char* key) const;
    [[nodiscard]] Canvas* canvas(const QString& name) const;
    [[nodiscard]] const std::vector<MultiEdit*>& many() const { return many_; }
    /// The part that stands first below the drawing: what the stage works on.
    void set_first(CardPart part);
    /// The parts shown, from the top; for tests.
    [[nodiscard]] const std::vector<CardPart>& order() const { return order_; }

  private:
    void rebuild();
    void refresh();
    void add_heading(const QString& name, const QString& what);
    /// @param what  asked each time it is painted: what stands beside the name may change with an edit
    void add_heading(const QString& name, std::function<QString()> what);
    void add_title(const QString& title);
    void add_field(Kind kind, std::uint64_t id, const char* key);
    Canvas* add_canvas(const QString& name, Canvas::Draw draw);
    void pipe_card(std::uint64_t id);
    void structure_card(std::uint64_t id);
    void catchment_card(std::uint64_t id);
    void many_card();
    void street_card(std::uint64_t id);
    void path_card(std::uint64_t id);
    void buried_card(std::uint64_t id);
    void add_outfall(std::uint64_t id);
    void add_storage(std::uint64_t id);
    void add_pond(const Pond& pond);
    void add_outlet(const PondOutlet& outlet);
    void add_releases(std::uint64_t id);
    void add_ground_losses(Kind kind, std::uint64_t id);
    void add_crossings(std::function<bool(const Clash&)> of);
    void add_structure_drawing(std::uint64_t id);
    void project_card();
    void add_event();
    void cover_card(std::uint64_t id);
    void add_verdicts();
    void add_budget();
    void add_pipe_levels();
    void add_pipe_inputs(std::uint64_t id);
    void add_structure_inputs(std::uint64_t id);
    void add_drains(std::uint64_t id);
    void add_time(std::uint64_t id);
    void add_covers(std::uint64_t id);
    void add_street(std::uint64_t id);
    void add_capture(std::uint64_t id);
    [[nodiscard]] bool concerns(const ChangeSet& what) const;
    using Part = std::pair<CardPart, std::function<void()>>;
    void add_parts(std::vector<Part> parts);
    void add_results();
    void add_ways(std::uint64_t id);
    void add_runoff(std::uint64_t id);
    void add_rain_chart(std::uint64_t id);
    void add_service();
    [[nodiscard]] int node() const;           ///< of the selected element
    [[nodiscard]] int link() const;           ///< of the selected pipe or structure in the viewed result
    [[nodiscard]] QString signature() const;  ///< what decides whether the card must be built anew

    Document& document_;
    QWidget* content_ = nullptr;
    QVBoxLayout* column_ = nullptr;
    QString built_;
    QTimer late_;
    CardPart first_ = CardPart::Verdicts;
    std::vector<CardPart> order_;
    bool results_open_ = false;  ///< the list of all results
    std::size_t compared_type_ = 0;
    std::vector<FieldEdit*> fields_;
    std::vector<MultiEdit*> many_;
    std::vector<Canvas*> canvases_;
};

}  // namespace culvert::app
