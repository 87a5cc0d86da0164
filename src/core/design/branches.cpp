// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/branches.h"
#include "core/base/contract.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/design/pipe_fit.h"
#include "core/model/lay.h"
#include "core/network/network.h"

namespace culvert {
namespace {

double least(const Project& project, LimitKind kind, std::uint64_t element, double otherwise) {
    const Limit* l = find_limit(project, kind, element);
    return l ? l->value : otherwise;
}
double cover(const Structure& s, const Pipe& p, double invert) {
    return s.rim - (invert + height(section_of(p)) + p.wall);
}
double volume_of(const Project& project, const Project& before, const std::set<std::uint64_t>& pipes) {
    double v = 0;
    for (const std::uint64_t id : pipes) {
        const Pipe *now = project.pipes.find(id), *was = before.pipes.find(id);
        if (now) v += trench_volume(project, *now);
        if (was) v -= trench_volume(before, *was);
    }
    return v;
}

}  // namespace

double trench_volume(const Project& project, const Pipe& p) {
    const Structure *a = project.structures.find(p.from.value), *b = project.structures.find(p.to.value);
    if (!a || !b) return not_given;
    const double count = std::isnan(p.barrels) ? 1 : std::max(1.0, std::floor(p.barrels));
    const double inside = count * (inside_width(size_of(p)) + 2 * p.wall) + (count - 1) * barrel_gap - 2 * p.wall;
    const double width = trench_width(inside, p.wall);
    const double depth = (a->rim - p.invert_from + b->rim - p.invert_to) / 2 + p.wall + trench_bedding;
    return depth * length_of(project, p) * width;
}

namespace {

/// A branch where it meets its main, and the ways out of a level that is wrong there, one after another.
class BranchStudy {
  public:
    BranchStudy(const Project& project, PipeId id)
        : project_(project), id_(id), units_(units_of(project)), network_(compile(project)) {}

    BranchLevels run() {
        if (!find()) return std::move(out_);
        if (out_.gap > 0.0005) {
            out_.low = true;
            raise_the_branch();
            shorten_the_branch();
            lower_the_main();
        } else if (out_.gap < -0.0005 && low_end_ - main_invert_ > drop_ + 0.0005) {
            out_.high = low_end_ - wanted_ > 0.3;  // high enough to stand as a drop
            if (out_.high) {
                drop_on_the_branch();
                steepen_the_branch();
            }
        }
        std::stable_sort(out_.alternatives.begin(), out_.alternatives.end(), [](const auto& x, const auto& y) {
            return x.keeps_cover != y.keeps_cover ? x.keeps_cover : x.excavation < y.excavation;
        });
        return std::move(out_);
    }

  private:
    /// A structure on the main with the pipe that leads on from it.
    struct Step {
        const Node* node;
        const Link* pipe;  ///< null at an outfall
    };
    [[nodiscard]] Step step(int at) const {
        const Node& m = nth(network_.nodes, at);
        return {&m, m.out == no_link ? nullptr : &nth(network_.links, m.out)};
    }
    [[nodiscard]] std::string metres(double v) const { return units_.text(v, Quantity::Length); }

    /// The branch, its ends along the water, and the level it should arrive at. False where it meets no main.
    bool find() {
        given_ = project_.pipes.find(id_.value);
        if (!given_ || std::isnan(given_->invert_from) || std::isnan(given_->invert_to)) return false;
        const int branch = network_.link_of(id_);
        if (branch == no_link || !nth(network_.links, branch).main) return false;
        node_ = nth(network_.links, branch).from;
        const Node& n = nth(network_.nodes, node_);
        below_node_ = n.down;
        const Node& below = nth(network_.nodes, below_node_);
        out_.structure = below.structure;
        out_.branch = id_;
        if (below.out == no_link || below.kind == StructureKind::Outfall) return false;
        out_.main = nth(network_.links, below.out).pipe;
        main_invert_ = nth(network_.links, below.out).invert_up;
        turned_ = given_->from != n.structure;
        up_ = turned_ ? "invert_to" : "invert_from";
        down_ = turned_ ? "invert_from" : "invert_to";
        high_end_ = turned_ ? given_->invert_to : given_->invert_from;
        low_end_ = turned_ ? given_->invert_from : given_->invert_to;
        drop_ = drop_across(project_, below.structure);
        wanted_ = main_invert_ + drop_;
        out_.gap = wanted_ - low_end_;
        head_ = project_.structures.find(n.structure.value);
        joint_ = project_.structures.find(below.structure.value);
        const double slope = least(project_, LimitKind::LeastSlope, id_.value, 0);
        flattest_ = slope > 0 ? slope : project_.settings().default_slope;
        asked_ = least(project_, LimitKind::LeastCover, id_.value, project_.settings().default_cover);
        name_ = pipe_name(project_, *given_);
        return true;
    }
    void finish(Editing& e, std::string text, const std::set<std::uint64_t>& pipes, bool keeps) {
        BranchAlternative alt;
        alt.excavation = volume_of(e.now(), project_, pipes);
        alt.edit = e.take();
        if (alt.edit.empty()) return;
        alt.edit.name = text;
        alt.text = std::move(text);
        alt.cost = alt.excavation * project_.settings().excavation_price;
        alt.keeps_cover = keeps;
        out_.alternatives.push_back(std::move(alt));
    }

    void raise_the_branch() {
        double least_in = 1e300;  // what comes in at its head must stay above it
        for (const Link& m : network_.links)
            if (m.main && m.to == node_) least_in = std::min(least_in, m.invert_down);
        const double top = std::max(high_end_, wanted_ + flattest_ * length_of(project_, *given_));
        const double c = std::min(cover(*head_, *given_, top), cover(*joint_, *given_, wanted_));
        if (top > least_in - drop_across(project_, {head_->id}) + 1e-9) return;
        Editing e(project_, "");
        e.set(Kind::Pipe, id_.value, up_, to_mm(top), Origin::Proposed);
        e.set(Kind::Pipe, id_.value, down_, to_mm(wanted_), Origin::Proposed);
        const bool keeps = c >= asked_ - 1e-9;
        finish(e,
               "raise " + name_ + " to " + units_.text(wanted_, Quantity::Level) + " at " + joint_->name +
                   (keeps ? "" : ": cover " + metres(c) + " where " + metres(asked_) + " is asked"),
               {id_.value}, keeps);
    }

    /// Joins a structure farther down the main that lies low enough.
    void shorten_the_branch() {
        Step m = step(below_node_);
        for (int guard = 0; guard < 200 && m.node->down != no_node; ++guard) {
            m = step(m.node->down);
            if (!m.pipe) break;
            const Structure& s = *project_.structures.find(m.node->structure.value);
            const double way = distance({head_->x, head_->y}, {s.x, s.y});
            const double arrive = high_end_ - flattest_ * way,
                         least_level = m.pipe->invert_up + drop_across(project_, m.node->structure);
            if (arrive < least_level) continue;
            const double arrives = to_mm(std::min(arrive, s.rim - asked_ - given_->wall - height(section_of(*given_))));
            if (arrives < least_level - 1e-9) continue;
            Editing e(project_, "");
            e.set(Kind::Pipe, id_.value, turned_ ? "from" : "to", m.node->structure.value);
            e.set(Kind::Pipe, id_.value, "bends", std::vector<Point>{});
            if (!std::isnan(given_->length)) e.set(Kind::Pipe, id_.value, "length", not_given);
            e.set(Kind::Pipe, id_.value, down_, arrives, Origin::Proposed);
            finish(e, "lead " + name_ + " to " + s.name + " instead, " + metres(way) + " long", {id_.value}, true);
            break;
        }
    }

    /// Lowers the main from here down, as far as it must. The outfall's own level cannot be lowered here.
    void lower_the_main() {
        Editing e(project_, "");
        std::set<std::uint64_t> pipes;
        double invert = low_end_ - drop_;
        Step m = step(below_node_);
        bool possible = true;
        for (std::size_t guard = 0; guard < network_.nodes.size() && m.pipe; ++guard) {
            const Pipe& p = *project_.pipes.find(m.pipe->pipe.value);
            const bool back = p.from != m.node->structure;
            if (m.pipe->invert_up <= invert + 1e-9) break;  // low enough from here on
            pipes.insert(p.id);
            e.set(Kind::Pipe, p.id, back ? "invert_to" : "invert_from", to_mm(invert), Origin::Proposed);
            const double s = least(project_, LimitKind::LeastSlope, p.id, 0);
            const double end = std::min(
                m.pipe->invert_down,
                invert - (s > 0 ? s : std::min(m.pipe->slope, project_.settings().default_slope)) * m.pipe->length);
            if (end < m.pipe->invert_down - 1e-9)
                e.set(Kind::Pipe, p.id, back ? "invert_from" : "invert_to", to_mm(end), Origin::Proposed);
            if (m.node->down == no_node) break;
            const Step next = step(m.node->down);
            invert = std::min(end, m.pipe->invert_down) - drop_across(project_, next.node->structure);
            if (!next.pipe && end < m.pipe->invert_down - 1e-9) possible = false;
            m = next;
        }
        finish(e,
               "lower " + std::to_string(pipes.size()) + (pipes.size() == 1 ? " pipe" : " pipes") +
                   " of the main from " + joint_->name + " down" +
                   (possible ? "" : "; the outfall would lie lower too"),
               pipes, true);
    }

    /// The branch keeps its least depth to the structure, and drops there.
    void drop_on_the_branch() {
        const double shallow = std::min(head_->rim, joint_->rim) - asked_ - given_->wall - height(section_of(*given_));
        const double end = std::min(shallow, high_end_ - flattest_ * length_of(project_, *given_));
        if (end <= low_end_ + 1e-9) return;
        Editing e(project_, "");
        e.set(Kind::Pipe, id_.value, down_, to_mm(end), Origin::Proposed);
        finish(e, "a drop of " + metres(end - main_invert_) + " on " + name_ + " at " + joint_->name, {id_.value},
               true);
    }
    void steepen_the_branch() {
        Editing e(project_, "");
        e.set(Kind::Pipe, id_.value, down_, to_mm(wanted_), Origin::Proposed);
        finish(e, "steepen " + name_ + " to meet the main at " + joint_->name, {id_.value}, true);
    }

    const Project& project_;
    PipeId id_;
    UnitSet units_;
    Network network_;
    BranchLevels out_;
    const Pipe* given_ = nullptr;
    const Structure *head_ = nullptr, *joint_ = nullptr;
    int node_ = no_node, below_node_ = no_node;
    bool turned_ = false;  ///< drawn against the water
    const char *up_ = "", *down_ = "";
    double high_end_ = 0, low_end_ = 0, main_invert_ = 0, drop_ = 0, wanted_ = 0, flattest_ = 0, asked_ = 0;
    std::string name_;
};

}  // namespace

BranchLevels branch_levels(const Project& project, PipeId id) { return BranchStudy(project, id).run(); }

}  // namespace culvert
