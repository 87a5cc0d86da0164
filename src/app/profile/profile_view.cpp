// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/profile/profile_view.h"

#include <QMenu>
#include <QMouseEvent>
#include <cmath>

#include "app/desk/text.h"
#include "app/profile/profile_layout.h"
#include "core/model/lay.h"

namespace culvert::app {
namespace {

constexpr double closest = 3;  ///< m of a run that zooming comes down to

}  // namespace

ProfileView::ProfileView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Profile");
    setMinimumHeight(150);
    rows_ = chosen_table_rows();
    menu_ = new QToolButton(this);
    menu_->setText("⋯");
    menu_->setAutoRaise(true);
    menu_->setStyleSheet("QToolButton{padding:0;border:none}");
    menu_->setAccessibleName("Choices of the profile");
    menu_->setToolTip("Profiles kept by name, rows of the table, scale of its files, measuring");
    menu_->setFocusPolicy(Qt::NoFocus);
    connect(menu_, &QToolButton::clicked, this, &ProfileView::open_menu);
    const auto refresh = [this] {
        dirty_ = true;
        update();
    };
    late_.setSingleShot(true);
    late_.setInterval(25);
    connect(&late_, &QTimer::timeout, this, refresh);
    connect(&document_, &Document::changed, this, [this] {
        dirty_ = true;
        if (isVisible()) late_.start();
    });
    // The eye is on the grade line: it is painted as its results come, before anything else hears of them.
    connect(&document_, &Document::results_changed, this, [this, refresh](const ResultsChange& what) {
        if (!what.viewed) return;
        dirty_ = true;
        if (!isVisible()) return;
        if (!document_.current() || document_.result() == painted_result_) return refresh();
        late_.stop();
        repaint();
    });
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        const bool lines = what.others && all_events_ && !late_.isActive();
        dirty_ = dirty_ || lines;
        if ((what.data || lines) && isVisible()) update();  // crossings, other events
    });
    connect(&document_, &Document::event_changed, this, refresh);
    connect(&document_, &Document::site_changed, this, refresh);
    connect(&document_, &Document::age_changed, this, refresh);
    connect(&document_, &Document::selection_changed, this, [this] {
        dirty_ = true;
        if (!late_.isActive()) update();
    });
}

void ProfileView::open_menu() { make_menu()->popup(menu_->mapToGlobal(QPoint(0, menu_->height()))); }
void ProfileView::resizeEvent(QResizeEvent*) { menu_->setGeometry(width() - 26, 3, 24, 24); }

/// The run through what was selected last, or its part between two structures.
Profile ProfileView::run_of(const Network& net, const EventResult* r, const Review* review) const {
    if (!between_) return profile_of(document_.project(), net, r, review, through_);
    for (const StructureId head : {between_->first, between_->second})
        if (Profile part =
                profile_between(profile_of(document_.project(), net, r, review, {Kind::Structure, head.value}),
                                between_->first, between_->second);
            !part.empty())
            return part;
    return {};
}
/// Between two structures where these are selected, until something beside that part is.
void ProfileView::take_run(const Network& net, const EventResult* r, const Review* review) {
    const auto selection = document_.selection();
    if (selection.size() == 2 && selection[0].kind == Kind::Structure && selection[1].kind == Kind::Structure)
        between_ = {StructureId{selection[0].id}, StructureId{selection[1].id}};
    else if (between_ && through_.id) {
        const Profile part = run_of(net, r, review);
        const bool inside = std::any_of(part.stations.begin(), part.stations.end(),
                                        [&](const ProfileStation& s) {
                                            return through_ == ElementRef{Kind::Structure, s.structure.value};
                                        }) ||
                            std::any_of(part.reaches.begin(), part.reaches.end(), [&](const ProfileReach& x) {
                                return through_ == ElementRef{Kind::Pipe, x.pipe.value};
                            });
        if (!inside) between_.reset();
    }
    profile_ = run_of(net, r, review);
    if (!profile_.empty() || !between_) return;
    between_.reset();  // one does not lead to the other
    profile_ = run_of(net, r, review);
}

void ProfileView::rebuild() {
    dirty_ = false;
    const ElementRef s = document_.selected();
    if (s.kind == Kind::Structure || s.kind == Kind::Pipe) through_ = s;
    if (s.kind == Kind::Catchment)
        if (const Catchment* c = document_.project().catchments.find(s.id))
            through_ = {Kind::Structure, c->structure.value};
    // While the newest levels are on their way, the geometry is that of the network last compiled.
    const auto r = document_.result();
    const auto review = document_.review();
    std::shared_ptr<const Network> net = r ? r->network : document_.network();
    if (!net) {
        profile_ = {};
        joins_.clear();
        return;
    }
    const Profile before = std::move(profile_);
    take_run(*net, r.get(), review.get());
    find_joins(*net);
    committed_.reset();
    if (document_.has_pending()) {
        Profile now;
        now.stations = profile_.stations;
        for (const ProfileReach& reach : profile_.reaches) {
            const Pipe* p = document_.committed().pipes.find(reach.pipe.value);
            const std::size_t i = now.reaches.size();
            ProfileReach old = reach;
            if (p) {
                const bool along = p->from == profile_.stations[i].structure;
                old.invert_up = along ? p->invert_from : p->invert_to;
                old.invert_down = along ? p->invert_to : p->invert_from;
                old.height = culvert::height(section_of(*p));
            } else old.invert_up = old.invert_down = not_given;  // the change brings it
            now.reaches.push_back(old);
        }
        committed_ = std::move(now);
    }
    find_ground();
    find_other_events();
    const bool same_run = before.stations.size() == profile_.stations.size() &&
                          std::equal(before.stations.begin(), before.stations.end(), profile_.stations.begin(),
                                     [](const auto& x, const auto& y) { return x.structure == y.structure; });
    if (!same_run) from_ = to_ = 0;
    if (to_ > profile_.length) to_ = profile_.length;
    if (dragging_ && !before.empty()) {  // the scale holds still under the pointer
        profile_.low = before.low;
        profile_.high = before.high;
        return;
    }
    fit_levels();
}

/// Levels between the ends of what is shown, with a margin. One that lies far off would flatten all others: the scale
/// is cut before it, and that is said.
void ProfileView::fit_levels() {
    cut_.clear();
    if (profile_.empty()) return;
    const double left = to_ > from_ ? from_ : 0, right = to_ > from_ ? to_ : profile_.length;
    std::vector<double> levels;
    const auto see = [&](double x, double level) {
        if (x >= left - 1e-9 && x <= right + 1e-9 && std::isfinite(level)) levels.push_back(level);
    };
    for (const ProfileStation& st : profile_.stations)
        for (const double level : {st.rim, st.bottom, st.level}) see(st.x, level);
    for (const ProfileReach& r : profile_.reaches) {
        // Where an end lies outside, the barrel's level at the border counts.
        for (const double x : {std::clamp(r.x0, left, right), std::clamp(r.x1, left, right)}) {
            if (r.x1 < left || r.x0 > right || r.x1 <= r.x0) continue;
            const double invert = r.invert_up + (x - r.x0) / (r.x1 - r.x0) * (r.invert_down - r.invert_up);
            see(x, invert);
            see(x, invert + r.height);
        }
        for (const Point& h : r.hydraulic) see(h.x, h.y);
    }
    for (const OtherGradeLine& o : others_)
        for (const auto& part : o.parts)
            for (const Point& h : part) see(h.x, h.y);
    for (const auto* line : {&existing_, &finished_})
        for (const Point& q : *line) see(q.x, q.y);
    if (levels.empty()) return;
    std::sort(levels.begin(), levels.end());
    const auto at = [&](double share) {
        return levels[static_cast<std::size_t>(share * static_cast<double>(levels.size() - 1))];
    };
    const double middle = std::max(at(0.85) - at(0.15), 2.0), lowest = at(0.15) - 6 * middle,
                 highest = at(0.85) + 6 * middle;
    const auto low = std::lower_bound(levels.begin(), levels.end(), lowest),
               high = std::upper_bound(low, levels.end(), highest);
    const UnitSet u = document_.units();
    if (low != levels.begin())
        cut_ = "Cut: levels down to " + text(u.text(levels.front(), Quantity::Level)) + " lie below";
    if (high != levels.end())
        cut_ += (cut_.isEmpty() ? "Cut: levels up to " : ", up to ") + text(u.text(levels.back(), Quantity::Level)) +
                " above";
    profile_.low = *low;
    profile_.high = *(high - 1);
    if (profile_.high - profile_.low < 0.5) {
        profile_.low -= 0.25;
        profile_.high += 0.25;
    }
    const double margin = 0.06 * (profile_.high - profile_.low);
    profile_.low -= margin;
    profile_.high += margin * 2;
}

void ProfileView::find_ground() {
    const Ground& ground = document_.site().ground();
    Ground existing, finished;
    existing.existing = ground.existing;
    finished.finished = ground.finished;
    existing_ = ground_along(document_.project(), profile_, existing);
    finished_ = ground_along(document_.project(), profile_, finished);
}

QRectF ProfileView::plot() const {
    return {profile_left, profile_head, std::max(10.0, width() - profile_left - profile_right),
            std::max(10.0, height() - profile_head - table_height() - profile_foot)};
}

QPointF ProfileView::to_screen(Point p) const {
    const QRectF a = plot();
    const double left = to_ > from_ ? from_ : 0, shown = to_ > from_ ? to_ - from_ : profile_.length;
    return {a.left() + (p.x - left) / shown * a.width(),
            a.bottom() - (p.y - profile_.low) / (profile_.high - profile_.low) * a.height()};
}
double ProfileView::level_at(double y) const {
    const QRectF a = plot();
    return profile_.low + (a.bottom() - y) / a.height() * (profile_.high - profile_.low);
}

std::vector<ProfileView::Handle> ProfileView::handles() const {
    std::vector<Handle> list;
    for (std::size_t i = 0; i < profile_.reaches.size(); ++i) {
        const ProfileReach& r = profile_.reaches[i];
        const Pipe* pipe = document_.project().pipes.find(r.pipe.value);
        if (!pipe) continue;
        const bool along = pipe->from == profile_.stations[i].structure;
        if (!std::isnan(r.invert_up))
            list.push_back({{Kind::Pipe, r.pipe.value}, along ? "invert_from" : "invert_to", {r.x0, r.invert_up}});
        if (!std::isnan(r.invert_down))
            list.push_back({{Kind::Pipe, r.pipe.value}, along ? "invert_to" : "invert_from", {r.x1, r.invert_down}});
    }
    for (const ProfileStation& s : profile_.stations)
        if (!std::isnan(s.rim)) list.push_back({{Kind::Structure, s.structure.value}, "rim", {s.x, s.rim}});
    return list;
}

QPointF ProfileView::handle_at(ElementRef element, const char* field) const {
    for (const Handle& h : handles())
        if (h.element == element && std::string_view(h.field) == field) return to_screen(h.at);
    return {};
}

ElementRef ProfileView::element_at(QPointF at) const {
    if (profile_.empty()) return {};
    for (const ProfileStation& s : profile_.stations)
        if (std::abs(to_screen({s.x, 0}).x() - at.x()) < 7) return {Kind::Structure, s.structure.value};
    for (const ProfileReach& r : profile_.reaches)
        if (at.x() >= to_screen({r.x0, 0}).x() && at.x() <= to_screen({r.x1, 0}).x()) return {Kind::Pipe, r.pipe.value};
    return {};
}

void ProfileView::zoom_at(double screen_x, double factor) {
    if (profile_.empty()) return;
    const QRectF a = plot();
    const double left = to_ > from_ ? from_ : 0, shown = to_ > from_ ? to_ - from_ : profile_.length;
    const double at = left + std::clamp((screen_x - a.left()) / a.width(), 0.0, 1.0) * shown;
    const double wanted = std::max(shown / factor, std::min(closest, profile_.length));
    if (wanted >= profile_.length) return show_whole_run();
    from_ = std::clamp(at - (at - left) * wanted / shown, 0.0, profile_.length - wanted);
    to_ = from_ + wanted;
    fit_levels();
    update();
}
void ProfileView::pan_by(double pixels) {
    if (to_ <= from_) return;
    const double shown = to_ - from_;
    from_ = std::clamp(from_ - pixels / plot().width() * shown, 0.0, profile_.length - shown);
    to_ = from_ + shown;
    fit_levels();
    update();
}
void ProfileView::show_whole_run() {
    from_ = to_ = 0;
    fit_levels();
    update();
}
void ProfileView::wheelEvent(QWheelEvent* e) {
    if (dragging_) return;
    if (e->modifiers() & Qt::ShiftModifier || e->angleDelta().y() == 0)
        pan_by(e->angleDelta().x() + e->angleDelta().y());
    else zoom_at(e->position().x(), std::pow(1.0015, e->angleDelta().y()));
    e->accept();
}
void ProfileView::contextMenuEvent(QContextMenuEvent* e) {
    if (const ElementRef hit = element_at(e->pos()); hit.id) emit menu_wanted(hit, e->globalPos());
}
void ProfileView::mouseDoubleClickEvent(QMouseEvent* e) {
    for (const TypedCell& c : typed_cells_)
        if (c.cell.adjusted(-6, 0, 6, 0).contains(e->position())) {
            down_ = false;
            edit_level(c.pipe, c.lower);
            return;
        }
    if (!element_at(e->position()).id || e->position().y() < profile_head) show_whole_run();
}

void ProfileView::mousePressEvent(QMouseEvent* e) {
    pressed_ = e->position();
    if (e->button() == Qt::MiddleButton) panning_ = true;
    if (e->button() != Qt::LeftButton) return;
    if (const Join* join = join_at(pressed_)) {
        document_.select({{Kind::Pipe, join->pipe.value}});
        return;
    }
    if (measuring_ && !profile_.empty() && plot().adjusted(-8, -8, 8, 8).contains(pressed_)) {
        const Point at = place_at(pressed_);
        measured_ = {{at, at}};
        down_ = true;
        held_ = {};
        return;
    }
    down_ = true;
    dragging_ = false;
    held_ = {};
    double nearest = 9;
    for (const Handle& h : handles()) {
        const QPointF d = to_screen(h.at) - pressed_;
        // A selected element's handle wins where two lie together.
        const double away = std::hypot(d.x(), d.y()) - (document_.is_selected(h.element) ? 2 : 0);
        if (away < nearest) {
            nearest = away;
            held_ = h;
        }
    }
    if (!held_.element.id)
        if (const ElementRef hit = element_at(pressed_); hit.id) document_.select({hit});
}

void ProfileView::mouseMoveEvent(QMouseEvent* e) {
    if (panning_) {
        pan_by(e->position().x() - pressed_.x());
        pressed_ = e->position();
        return;
    }
    if (measuring_) {
        if (down_ && measured_) {
            measured_->second = place_at(e->position());
            update();
        }
        return;
    }
    if (!down_ || !held_.element.id) {
        bool near = false;
        for (const Handle& h : handles()) near |= (to_screen(h.at) - e->position()).manhattanLength() < 9;
        setCursor(near ? Qt::SizeVerCursor : join_at(e->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
        return;
    }
    if (!dragging_ && std::abs(e->position().y() - pressed_.y()) < 3) return;
    if (!dragging_) {
        dragging_ = true;
        held_level_ = held_.at.y;
        snaps_.clear();
        if (held_.element.kind == Kind::Pipe)
            snaps_ =
                level_snaps(document_.committed(), {held_.element.id}, held_.field == std::string_view("invert_from"));
    }
    drag_to(level_at(e->position().y()), e->modifiers());
    update();
}

/// The held end, or rim, follows the pointer: caught by what is near, taken as a pin, or with the whole run.
void ProfileView::drag_to(double level, Qt::KeyboardModifiers keys) {
    level = to_mm(level);
    const UnitSet u = document_.units();
    const bool rim = held_.field == std::string_view("rim");
    readout_.clear();
    const QRectF a = plot();
    const double reach = 6 * (profile_.high - profile_.low) / a.height();
    if (const LevelSnap* snap = keys & Qt::AltModifier ? nullptr : nearest_snap(snaps_, level, reach)) {
        level = snap->level;
        readout_ = ", " + text(snap->words);
    }
    readout_.prepend(text(u.text(level, Quantity::Level)));
    const PipeId pipe{held_.element.id};
    if (!rim && keys & Qt::ShiftModifier) {
        std::vector<PipeId> run;
        for (const ProfileReach& r : profile_.reaches) run.push_back(r.pipe);
        readout_ += ", the whole run by " + text(u.text(level - held_level_, Quantity::Length));
        document_.set_pending(move_run(document_.committed(), run, level - held_level_));
        return;
    }
    if (!rim && taker_ && taker_(pipe, held_.field == std::string_view("invert_from"), level)) {
        taken_ = true;
        return;
    }
    Editing edit(document_.committed(), (rim ? "Rim of " : "Invert of ") +
                                            element_name(document_.project(), held_.element.kind, held_.element.id));
    edit.set(held_.element.kind, held_.element.id, held_.field, level);
    document_.set_pending(edit.take());
}

void ProfileView::mouseReleaseEvent(QMouseEvent*) {
    panning_ = false;
    if (!down_) return;
    down_ = false;
    if (measuring_) return;
    readout_.clear();
    if (dragging_) {
        dragging_ = false;
        if (!taken_) document_.commit_pending();  // what is taken stays a preview, until it is accepted
        taken_ = false;
    } else if (held_.element.id) {
        document_.select({held_.element});
    }
    update();
}

void ProfileView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && dragging_) {
        dragging_ = down_ = false;
        readout_.clear();
        taken_ = false;
        document_.cancel_pending();
        return;
    }
    if (e->key() == Qt::Key_Escape && measuring_) return set_measuring(false);
    if (e->key() == Qt::Key_M && e->modifiers() == Qt::NoModifier) return set_measuring(!measuring_);
    if (e->key() == Qt::Key_F2 && !typed_cells_.empty()) {
        const ElementRef s = document_.selected();
        if (s.kind != Kind::Pipe || !edit_level({s.id}, false))
            edit_level(typed_cells_.front().pipe, typed_cells_.front().lower);
        return;
    }
    if (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Equal) return zoom_at(plot().center().x(), 1.5);
    if (e->key() == Qt::Key_Minus) return zoom_at(plot().center().x(), 1 / 1.5);
    if (e->key() == Qt::Key_0) return show_whole_run();
    if (e->key() == Qt::Key_Left) return pan_by(80);
    if (e->key() == Qt::Key_Right) return pan_by(-80);
    QWidget::keyPressEvent(e);
}

}  // namespace culvert::app
