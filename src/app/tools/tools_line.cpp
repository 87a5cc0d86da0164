// SPDX-License-Identifier: GPL-3.0-or-later
// Tools that draw lines: catchments and cuts through them, streets, street paths, distances.
#include <QMenu>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "core/design/cover_cut.h"
#include "core/design/flow_parts.h"
#include "core/design/layout.h"
#include "core/design/storage_study.h"
#include "core/model/lay.h"
#include "exchange/site_import.h"

namespace culvert::app {
namespace {

/// What the line tools share: corners by clicks or typed, Enter or a double click ends, Esc takes the last corner back.
class LineTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] bool takes_places() const override { return true; }
    [[nodiscard]] std::optional<QPointF> anchor() const override {
        return corners_.empty() ? std::optional<QPointF>() : QPointF(corners_.back().x, corners_.back().y);
    }
    void press(QMouseEvent* e) override {
        if (e->button() == Qt::RightButton) finish();
        if (e->button() == Qt::LeftButton) place(view_.snap(e->position(), e->modifiers(), anchor()), e->modifiers());
    }
    void place(const Snap& s, Qt::KeyboardModifiers) override {
        const Point p = to_point(s.at);
        if (corners_.empty() || !(corners_.back() == p)) {
            corners_.push_back(p);
            holds_.push_back(s);
        }
        view_.update();
    }
    void double_click(QMouseEvent*) override { finish(); }
    void move(QMouseEvent* e) override {
        at_ = view_.snap(e->position(), e->modifiers(), anchor());
        std::vector<Point> all = corners_;
        all.push_back(to_point(at_.at));
        view_.set_readout(corners_.empty() ? QString() : said(all));
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
            finish();
            return true;
        }
        if (e->key() != Qt::Key_Escape) return false;
        if (corners_.empty()) view_.set_tool("select");
        else {
            corners_.pop_back();
            holds_.pop_back();
            std::vector<Point> all = corners_;
            all.push_back(to_point(at_.at));
            view_.set_readout(corners_.empty() ? QString() : said(all));
        }
        view_.update();
        return true;
    }
    void paint(QPainter& p) override {
        p.setRenderHint(QPainter::Antialiasing);
        QPolygonF line;
        for (const Point& c : corners_) line << view_.to_screen({c.x, c.y});
        line << view_.to_screen(at_.at);
        p.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        if (at_.to != Snap::To::Free) p.drawEllipse(view_.to_screen(at_.at), 6, 6);
    }

  protected:
    [[nodiscard]] virtual QString said(const std::vector<Point>& all) const = 0;
    virtual void finish() = 0;
    void clear() {
        corners_.clear();
        holds_.clear();
        view_.set_readout({});
        view_.update();
    }
    std::vector<Point> corners_;
    std::vector<Snap> holds_;
    Snap at_;
};

/// What the tools of areas share: an outline is measured while it is drawn, and must not cross itself.
class OutlineTool : public LineTool {
  public:
    using LineTool::LineTool;

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        if (all.size() < 3) return shown(length(all), Quantity::Length);
        return shown(area(all), Quantity::Area) + (crosses_itself(all) ? "\nits outline crosses itself" : "");
    }
    [[nodiscard]] bool closes() {
        if (corners_.size() < 3) return false;
        if (!crosses_itself(corners_)) return true;
        emit view_.said("The outline crosses itself: step back with Esc and draw its corners in order.");
        return false;
    }
};

/// Draws a catchment corner by corner. It drains down the ground to the first inlet, else to the nearest.
class AreaTool : public OutlineTool {
  public:
    using OutlineTool::OutlineTool;
    [[nodiscard]] QString name() const override { return "area"; }
    [[nodiscard]] QString hint() const override {
        return "Click the corners of a catchment; Enter or a double click closes it";
    }

  protected:
    void finish() override {
        if (!closes()) return;
        Document& d = document();
        Catchment c;
        c.id = random_id();
        c.outline = corners_;
        c.area = std::round(area(corners_) * 10) / 10;
        c.name = numbered_name(d.project(), Kind::Catchment, "Area");
        const SiteGround site = d.site_ground();
        c.structure = downhill_target(d.project(), site, corners_);
        if (const Structure* s = d.project().structures.find(c.structure.value))
            c.flow_path = longest_flow_path(site, corners_, {s->x, s->y});
        for (const char* key : {"name", "area", "outline"})
            c.origin[*field_index(Kind::Catchment, key)] = Origin::Typed;
        for (const char* key : {"structure", "flow_path"})
            c.origin[*field_index(Kind::Catchment, key)] = Origin::Proposed;
        Editing edit(d.project(), "Draw " + c.name);
        edit.insert(c);
        clear();
        d.commit(edit.take());
        d.select({{Kind::Catchment, c.id}});
    }
};

/// Draws the bottom of a pond, or a contour of one whose space is given by levels; without a pond selected, a new one.
class PondTool : public OutlineTool {
  public:
    using OutlineTool::OutlineTool;
    [[nodiscard]] QString name() const override { return "pond"; }
    [[nodiscard]] QString hint() const override {
        const Pond* p = selected();
        return p && p->storage_by == StorageBy::Areas
                   ? "Click the corners of a contour; it joins the levels of the selected pond"
                   : "Click the corners of the pond's bottom; Enter or a double click closes it";
    }

  protected:
    [[nodiscard]] const Pond* selected() const {
        const ElementRef e = document().selected();
        for (const Pond& p : document().project().ponds)
            if ((e.kind == Kind::Structure && p.structure.value == e.id) || (e.kind == Kind::Pond && p.id == e.id))
                return &p;
        return nullptr;
    }
    void finish() override {
        if (!closes()) return;
        Document& d = document();
        const std::vector<Point> shape = corners_;
        const Pond* p = selected();
        Edit edit;
        std::uint64_t shown = p ? p->structure.value : 0;
        if (p && p->storage_by == StorageBy::Areas) edit = contour(d, *p, shape);
        else if (p) {
            Editing e(d.project(), "Outline of " + p->name);
            e.set(Kind::Pond, p->id, "outline", shape);
            e.set(Kind::Pond, p->id, "storage_by", StorageBy::Outline);
            edit = e.take();
        } else {
            Point middle{};
            for (const Point& c : shape)
                middle.x += c.x / static_cast<double>(shape.size()),
                    middle.y += c.y / static_cast<double>(shape.size());
            Editing e(d.project(), "Draw a pond");
            const Structure s = new_structure(d.project(), StructureKind::Pond, middle, {d.ground_level(middle)}, "");
            e.insert(s);
            shown = s.id;
            edit = e.take();
            Project next = d.project();
            apply(next, edit);
            Edit storage = give_storage(next, {s.id}, shape);
            std::move(storage.changes.begin(), storage.changes.end(), std::back_inserter(edit.changes));
        }
        clear();
        d.commit(std::move(edit));
        if (shown) d.select({{Kind::Structure, shown}});
    }
    /// The area of an outline at the level of the ground under it; without ground half a metre above the last.
    static Edit contour(Document& d, const Pond& p, const std::vector<Point>& shape) {
        double sum = 0;
        int known = 0;
        for (const Point& c : shape)
            if (const double z = d.ground_level(c); !std::isnan(z)) sum += z, ++known;
        double level = known ? std::round(sum / known * 20) / 20 : p.levels.empty() ? 0 : p.levels.back() + 0.5;
        std::vector<double> levels = p.levels, areas = p.areas;
        areas.resize(levels.size(), 0);
        auto at = std::lower_bound(levels.begin(), levels.end(), level - 1e-9);
        const auto i = at - levels.begin();
        if (at != levels.end() && std::abs(*at - level) < 1e-6) areas[static_cast<std::size_t>(i)] = area(shape);
        else {
            levels.insert(at, level);
            areas.insert(areas.begin() + i, area(shape));
        }
        Editing e(d.project(), "Contour of " + p.name);
        e.set(Kind::Pond, p.id, "levels", levels);
        e.set(Kind::Pond, p.id, "areas", areas);
        return e.take();
    }
};

/// Cuts the selected catchment, or the one under the first corner's way, along a line.
class CutTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "cut"; }
    [[nodiscard]] QString hint() const override { return "Click a line through a catchment; Enter cuts it in two"; }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        return shown(length(all), Quantity::Length);
    }
    void finish() override {
        if (corners_.size() < 2) return;
        Document& d = document();
        std::uint64_t id = d.selected().kind == Kind::Catchment ? d.selected().id : 0;
        for (std::size_t i = 0; i + 1 < corners_.size() && !id; ++i) {
            const Point middle{(corners_[i].x + corners_[i + 1].x) / 2, (corners_[i].y + corners_[i + 1].y) / 2};
            for (const Catchment& c : d.project().catchments)
                if (inside(middle, c.outline)) id = c.id;
        }
        std::string why = "the line crosses no catchment";
        Edit edit = id ? split_catchment(d.project(), {id}, corners_, &why) : Edit{};
        if (edit.empty()) {
            emit view_.said("Not cut: " + text(why) + ".");
            return;
        }
        clear();
        d.commit(std::move(edit));
    }
};

/// Draws the longest way of a catchment's water, from its head down; its parts are measured from the ground.
class FlowTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "flow"; }
    [[nodiscard]] QString hint() const override {
        return "Click the way of the water from the head of a catchment down; Enter ends it and measures its parts";
    }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        const double a = document().ground_level(all.front()), b = document().ground_level(all.back()), l = length(all);
        QString out = shown(l, Quantity::Length);
        if (!std::isnan(a) && !std::isnan(b) && l > 0)
            out += (a >= b ? ", falls " : ", rises ") + shown(std::abs(a - b), Quantity::Length) + ", " +
                   shown((a - b) / l, Quantity::Slope);
        return out;
    }
    void finish() override {
        if (corners_.size() < 2) return;
        Document& d = document();
        const Catchment* c =
            d.selected().kind == Kind::Catchment ? d.project().catchments.find(d.selected().id) : nullptr;
        if (!c)
            for (const Catchment& other : d.project().catchments)
                if (!c && inside(corners_.front(), other.outline)) c = &other;
        if (!c) {
            emit view_.said("The way begins in no catchment: select the one that it belongs to.");
            return;
        }
        std::vector<std::string> remarks;
        const CatchmentId id{c->id};
        Edit edit = measure_flow_path(d.project(), id, corners_, ground(), {}, &remarks);
        edit.name = "Draw the flow path of " + c->name;
        clear();
        d.commit(std::move(edit));
        d.select({{Kind::Catchment, id.value}});
        if (!remarks.empty()) emit view_.said("Measured; " + text(remarks.front()) + ".");
    }
};

/// Draws a land cover; the catchments under it get the parts that lie in them.
class CoverTool : public OutlineTool {
  public:
    using OutlineTool::OutlineTool;
    [[nodiscard]] QString name() const override { return "cover"; }
    [[nodiscard]] QString hint() const override {
        return "Click the corners of a land cover; Enter closes it and asks what it is";
    }

  protected:
    void finish() override {
        if (!closes()) return;
        auto* menu = new QMenu(&view_);
        menu->setObjectName("cover-kinds");
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const LandCoverKind& kind : land_cover_kinds())
            menu->addAction(
                QString("%1   C %2 to %3").arg(text(kind.name)).arg(kind.c_low, 0, 'f', 2).arg(kind.c_high, 0, 'f', 2),
                &view_, [this, &kind] { take(kind); });
        const QPointF at = view_.to_screen({corners_.back().x, corners_.back().y});
        menu->popup(view_.mapToGlobal(at.toPoint()));
    }

  private:
    void take(const LandCoverKind& kind) {
        std::string why;
        Edit edit = draw_cover(document().project(), corners_, cover_of_kind(kind), &why);
        if (edit.empty()) {
            emit view_.said("Not drawn: " + text(why) + ".");
            return;
        }
        std::uint64_t catchment = 0;
        for (const Catchment& c : document().project().catchments)
            if (!catchment && inside(corners_.front(), c.outline)) catchment = c.id;
        clear();
        document().commit(std::move(edit));
        if (catchment) document().select({{Kind::Catchment, catchment}});
    }
};

/// Draws a street line; a Ctrl+click takes over a whole line of the background.
class StreetTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "street"; }
    [[nodiscard]] QString hint() const override {
        return "Click along the crown; Enter ends; Ctrl+click takes a line of the background";
    }
    void press(QMouseEvent* e) override {
        if (e->button() == Qt::LeftButton && e->modifiers() & Qt::ControlModifier) {
            QPointF place;
            const int line = view_.background().near(view_.to_metres(e->position()), view_.reach(), place);
            if (line < 0) {
                emit view_.said("There is no line of the background here.");
                return;
            }
            corners_.clear();
            for (const QPointF& p : view_.background().lines()[static_cast<std::size_t>(line)].points)
                if (const Point q = to_point(p); corners_.empty() || !(corners_.back() == q)) corners_.push_back(q);
            finish();
            return;
        }
        LineTool::press(e);
    }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        QString out = "station " + shown(length(all), Quantity::Length);
        if (const double level = document().ground_level(all.back()); !std::isnan(level))
            out += "\nground " + shown(level, Quantity::Level);
        return out;
    }
    void finish() override {
        if (corners_.size() < 2) return;
        Document& d = document();
        Street s;
        s.id = random_id();
        s.name = numbered_name(d.project(), Kind::Street, "Street");
        s.line = corners_;
        for (const char* key : {"name", "line"}) s.origin[*field_index(Kind::Street, key)] = Origin::Typed;
        Editing edit(d.project(), "Draw " + s.name);
        edit.insert(s);
        // Structures within its width know it from now on.
        for (const Structure& row : d.project().structures) {
            if (row.street) continue;
            const Station on = station_of(s.line, {row.x, row.y});
            if (std::abs(on.offset) > s.half_width() || on.station <= 0 || on.station >= length(s.line)) continue;
            edit.set(Kind::Structure, row.id, "street", s.id, Origin::Proposed);
            edit.set(Kind::Structure, row.id, "station", std::round(on.station * 1000) / 1000, Origin::Proposed);
            edit.set(Kind::Structure, row.id, "offset", std::round(on.offset * 1000) / 1000, Origin::Proposed);
        }
        clear();
        d.commit(edit.take());
        d.select({{Kind::Street, s.id}});
    }
};

/// Draws the way of water over the surface from an inlet to the next; ended on paper it leaves the site.
class PathTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "path"; }
    [[nodiscard]] QString hint() const override {
        return "Click an inlet, then the way of its water; a structure ends it, Enter on paper leads it off the site";
    }
    void place(const Snap& s, Qt::KeyboardModifiers keys) override {
        if (corners_.empty() && s.to != Snap::To::Structure) {
            emit view_.said("A street path begins at a structure.");
            return;
        }
        LineTool::place(s, keys);
        if (corners_.size() > 1 && s.to == Snap::To::Structure) finish();
    }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        const double a = document().ground_level(all.front()), b = document().ground_level(all.back());
        return shown(length(all), Quantity::Length) +
               (std::isnan(a) || std::isnan(b)
                    ? QString()
                    : (a >= b ? ", falls " : ", rises ") + shown(std::abs(a - b), Quantity::Length));
    }
    void finish() override {
        if (corners_.size() < 2 || holds_.front().to != Snap::To::Structure) return;
        Document& d = document();
        const Structure* from = d.project().structures.find(holds_.front().id);
        const Structure* to =
            holds_.back().to == Snap::To::Structure ? d.project().structures.find(holds_.back().id) : nullptr;
        if (!from || (to && to->id == from->id)) return;
        if (to && to->kind == StructureKind::Outfall) {
            emit view_.said(
                "Water on the street does not enter an outfall: lead the path to an inlet, or off the site.");
            corners_.pop_back();
            holds_.pop_back();
            return;
        }
        Editing edit(d.project(), "Street path from " + from->name);
        for (const StreetPath& p : d.project().street_paths)
            if (p.from.value == from->id) edit.remove(Kind::StreetPath, p.id);  // water goes one way
        StreetPath row;
        row.id = random_id();
        row.from = {from->id};
        row.to = {to ? to->id : 0};
        row.name = from->name + (to ? " to " + to->name : " off the site");
        row.bends.assign(corners_.begin() + 1, corners_.end() - (to ? 1 : 0));
        for (const char* key : {"from", "to", "bends"}) row.origin[*field_index(Kind::StreetPath, key)] = Origin::Typed;
        edit.insert(row);
        clear();
        d.commit(edit.take());
        d.select({{Kind::StreetPath, row.id}});
    }
};

/// Draws another line under ground; what it carries and its levels are given on its card.
class BuriedTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "buried"; }
    [[nodiscard]] QString hint() const override {
        return "Click along a water main, gas pipe or cable; Enter ends it, its card takes kind, size and levels";
    }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        return shown(length(all), Quantity::Length);
    }
    void finish() override {
        if (corners_.size() < 2) return;
        Document& d = document();
        BuriedLine row;
        row.id = random_id();
        row.name = numbered_name(d.project(), Kind::BuriedLine, "Line");
        row.line = corners_;
        for (const char* key : {"name", "line"}) row.origin[*field_index(Kind::BuriedLine, key)] = Origin::Typed;
        Editing edit(d.project(), "Draw " + row.name);
        edit.insert(row);
        clear();
        d.commit(edit.take());
        d.select({{Kind::BuriedLine, row.id}});
    }
};

/// Distances from point to point, with the fall of the ground.
class MeasureTool : public LineTool {
  public:
    using LineTool::LineTool;
    [[nodiscard]] QString name() const override { return "measure"; }
    [[nodiscard]] QString hint() const override { return "Click points; Esc steps back"; }

  protected:
    [[nodiscard]] QString said(const std::vector<Point>& all) const override {
        const Point a = all[all.size() - 2], b = all.back();
        QString out = shown(distance(a, b), Quantity::Length);
        if (all.size() > 2) out += ", in all " + shown(length(all), Quantity::Length);
        const double za = document().ground_level(a), zb = document().ground_level(b);
        if (!std::isnan(za) && !std::isnan(zb) && distance(a, b) > 0)
            out += "\nground " + text(document().units().number(za, Quantity::Level)) + " to " +
                   shown(zb, Quantity::Level) + ", " + shown((za - zb) / distance(a, b), Quantity::Slope);
        return out;
    }
    void finish() override { clear(); }
};

}  // namespace

std::unique_ptr<PlanTool> make_line_tool(const QString& name, PlanView& view) {
    if (name == "area") return std::make_unique<AreaTool>(view);
    if (name == "pond") return std::make_unique<PondTool>(view);
    if (name == "cut") return std::make_unique<CutTool>(view);
    if (name == "flow") return std::make_unique<FlowTool>(view);
    if (name == "cover") return std::make_unique<CoverTool>(view);
    if (name == "street") return std::make_unique<StreetTool>(view);
    if (name == "path") return std::make_unique<PathTool>(view);
    if (name == "buried") return std::make_unique<BuriedTool>(view);
    if (name == "measure") return std::make_unique<MeasureTool>(view);
    return nullptr;
}

}  // namespace culvert::app
