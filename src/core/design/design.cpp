// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/design.h"

#include "core/base/contract.h"
#include "core/design/clash_remedies.h"
#include "core/design/pipe_fit.h"
#include "core/design/relief.h"
#include "core/design/street_remedies.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/budget.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

std::size_t size_index(const std::vector<const PipeSize*>& sizes, double size) {
    std::size_t i = 0;
    while (i < sizes.size() && sizes[i]->size < size - 1e-9) ++i;
    return i;
}

std::shared_ptr<const EventResult> result_of(const Results& results, EventId event) {
    for (const auto& r : results)
        if (r->event == event) return r;
    return nullptr;
}

/// What sizes can mend or break: not the water on the streets.
int count_beyond(const std::vector<Finding>& findings) {
    return static_cast<int>(std::count_if(findings.begin(), findings.end(), [](const Finding& f) {
        return f.check.verdict == Verdict::Beyond && stage_of(f.check.rule) != Stage::Streets;
    }));
}

}  // namespace

Edit with_size(const Project& project, PipeId pipe, const PipeSize& size) {
    Editing e(project, "Size of " + element_name(project, Kind::Pipe, pipe.value));
    put_size(e, pipe.value, size, Origin::Typed);
    return e.take();
}

Edit step_size(const Project& project, PipeId pipe, int step) {
    const Pipe* p = project.pipes.find(pipe.value);
    if (!p || p->size_locked) return {};
    const auto sizes = sizes_of(project, p->material, p->shape);
    const std::size_t i = size_index(sizes, p->size);
    const bool exact = i < sizes.size() && std::abs(sizes[i]->size - p->size) < 1e-9;
    const long to = static_cast<long>(i) + (step > 0 ? (exact ? 1 : 0) : -1);
    if (to < 0 || to >= static_cast<long>(sizes.size())) return {};
    return with_size(project, pipe, *nth(sizes, to));
}

namespace {

/// The smallest size that carries a flow at a slope; why none smaller will do.
struct SizeChoice {
    const PipeSize* size = nullptr;
    enum class Why { Smallest, LeastSize, Upstream, Flow } why = Why::Smallest;
};
SizeChoice choose_size(const std::vector<const PipeSize*>& sizes, const PipeNeeds& needs, double slope, double above) {
    SizeChoice out;
    for (const PipeSize* s : sizes) {
        const Section section = section_of_size(*s);
        const double capacity = full_capacity(section, s->roughness, slope) * (needs.peak ? peak_ratio(section) : 1);
        const auto carries = [&] {
            if (!std::isnan(needs.flow_ratio) && needs.flow > 0 &&
                (!(capacity > 0) || beyond_limit(needs.flow / capacity, needs.flow_ratio, true)))
                return false;
            if (std::isnan(needs.filled)) return true;
            const double y = normal_depth(section, s->roughness, slope, needs.flow);
            return !beyond_limit(std::isnan(y) ? 1 : y / s->size, needs.filled, true);
        };
        if (s->size < needs.least_size - 1e-9) out.why = SizeChoice::Why::LeastSize;
        else if (s->size < above - 1e-9) out.why = SizeChoice::Why::Upstream;
        else if (!carries()) out.why = SizeChoice::Why::Flow;
        else {
            out.size = s;
            return out;
        }
    }
    return out;
}

/// Sizes of a tree, upstream first; what enters a node bounds what leaves it.
class SizeRound {
  public:
    SizeRound(const Project& original, const Project& now, const EventResult& result, const LimitTable& limits)
        : original_(original),
          now_(now),
          result_(result),
          limits_(limits),
          least_(result.network->nodes.size(), 0),
          least_from_(result.network->nodes.size()),
          edit_(now, "Propose sizes") {}

    std::vector<SizeRow> rows() {
        std::vector<SizeRow> rows;
        const Network& net = *result_.network;
        for (std::size_t i = 0; i < net.links.size(); ++i) {
            rows.push_back(row(net.links[i], result_.links[i]));
            const Link& n = net.links[i];
            if (n.main && rows.back().after > nth(least_, n.to)) {
                nth(least_, n.to) = rows.back().after;
                nth(least_from_, n.to) = n.pipe;
            }
        }
        return rows;
    }
    Edit take() { return edit_.take(); }

  private:
    SizeRow row(const Link& n, const LinkResult& found) {
        const Pipe &pipe = *now_.pipes.find(n.pipe.value), &first = *original_.pipes.find(n.pipe.value);
        const double flow = found.flow.flow;
        SizeRow row{n.pipe, first.size, pipe.size, flow, n.capacity, found.flow.velocity, pipe.size_locked, {}};
        if (pipe.size_locked) row.reason = "locked";
        else if (!n.solvable) row.reason = "cannot be solved: see its finding";
        else {
            const PipeNeeds needs = needs_of(limits_, pipe.id, flow, result_.network->peak_capacity);
            take_size(row, n, pipe,
                      choose_size(sizes_of(now_, pipe.material, pipe.shape), needs, n.slope, nth(least_, n.from)));
        }
        return row;
    }
    void take_size(SizeRow& row, const Link& n, const Pipe& pipe, const SizeChoice& choice) {
        const UnitSet units = units_of(original_);
        if (!choice.size) {
            row.reason = n.slope > 0 ? "no size of the catalogue is enough"
                                     : "no size carries the flow: its slope is " + units.text(n.slope, Quantity::Slope);
            return;
        }
        const Section section = section_of_size(*choice.size);
        row.after = choice.size->size;
        row.capacity = full_capacity(section, choice.size->roughness, n.slope) *
                       (result_.network->peak_capacity ? peak_ratio(section) : 1);
        const std::string carries = "carries " + units.text(row.flow, Quantity::Flow);
        row.reason = choice.why == SizeChoice::Why::Upstream
                         ? "not smaller than " + element_name(now_, Kind::Pipe, nth(least_from_, n.from).value)
                         : (choice.why == SizeChoice::Why::LeastSize ? "least size; " : "") + carries;
        if (std::abs(choice.size->size - pipe.size) > 1e-9) put_size(edit_, pipe.id, *choice.size, Origin::Proposed);
    }

    const Project &original_, &now_;
    const EventResult& result_;
    const LimitTable& limits_;
    std::vector<double> least_;       ///< by node: the largest size that enters
    std::vector<PipeId> least_from_;  ///< of that pipe
    Editing edit_;
};

/// One Edit from the project as it stands to the sizes found, whatever the rounds between.
Edit edit_to(const Project& project, const Project& now, const std::vector<SizeRow>& rows) {
    Editing e(project, "Propose sizes");
    for (const SizeRow& row : rows) {
        const Pipe& pipe = *now.pipes.find(row.pipe.value);
        if (std::abs(row.before - pipe.size) <= 1e-9) continue;
        const auto sizes = sizes_of(project, pipe.material, pipe.shape);
        const std::size_t i = size_index(sizes, pipe.size);
        if (i < sizes.size()) put_size(e, pipe.id, *sizes[i], Origin::Proposed);
    }
    return e.take();
}

}  // namespace

SizeProposal propose_sizes(const Project& project, EventId event) {
    constexpr int most_rounds = 8;
    SizeProposal proposal;
    Project now = project;
    Solver solver;
    const LimitTable limits(project, event);
    if (const auto before = result_of(solver.solve(now, 0, event), event))
        proposal.beyond_before = count_beyond(review(now, *before).findings);
    for (int round = 0;; ++round) {
        const auto result = result_of(solver.solve(now, 0, event), event);
        if (!result) return proposal;
        Edit step;
        if (round < most_rounds) {
            SizeRound sizes(project, now, *result, limits);
            proposal.rows = sizes.rows();
            step = sizes.take();
        }
        if (step.empty()) {  // settled, or as far as it came
            proposal.findings = review(now, *result).findings;
            for (Finding& f : proposal.findings) word(now, *result, f);
            break;
        }
        apply(now, step);
    }
    proposal.beyond_after = count_beyond(proposal.findings);
    proposal.edit = edit_to(project, now, proposal.rows);
    return proposal;
}

FindingKeys beyond_keys(const Project& project, const Results& results) {
    FindingKeys keys;
    for (const auto& r : results) {
        auto some = beyond_keys(project, *r);
        keys.insert(keys.end(), std::make_move_iterator(some.begin()), std::make_move_iterator(some.end()));
    }
    std::sort(keys.begin(), keys.end());
    return keys;
}

Trial try_edit(const Project& project, const Results& results, const Edit& edit, const FindingKeys& before,
               EventId upto, const std::stop_token& stop) {
    Project with = project;
    apply(with, edit);
    Trial trial;
    trial.results = Solver::warm(project, results).solve(with, 0, {}, stop);
    if (stop.stop_requested()) return trial;
    trial.keys = beyond_keys(with, trial.results);
    const FindingKeys& after = trial.keys;
    FindingKeys gone, added;
    std::set_difference(before.begin(), before.end(), after.begin(), after.end(), std::back_inserter(gone));
    std::set_difference(after.begin(), after.end(), before.begin(), before.end(), std::back_inserter(added));
    const RainEvent* viewed = project.events.find(upto.value);
    trial.gone = static_cast<int>(std::count_if(gone.begin(), gone.end(), [&](const auto& key) {
        const RainEvent* e = project.events.find(std::get<2>(key).value);
        return !viewed || !e || e->return_period <= viewed->return_period;
    }));
    trial.added = static_cast<int>(added.size());
    return trial;
}

std::vector<Remedy> remedies(const Project& project, const Results& results, const Finding& finding,
                             const std::stop_token& stop) {
    if (finding.check.rule == Rule::Crossing || finding.check.rule == Rule::Beside)
        return clash_remedies(project, results, finding, stop);
    std::vector<Remedy> list;
    const auto result = result_of(results, finding.event);
    if (!result) return list;
    const UnitSet units = units_of(project);
    const FindingKeys before = beyond_keys(project, results);
    // Pipes worth a larger size: the one found fault with, and what contributes most to the level, largest first.
    std::vector<std::uint64_t> pipes;
    StructureId structure{finding.element.kind == Kind::Structure ? finding.element.id : 0};
    if (finding.element.kind == Kind::Pipe) {
        pipes.push_back(finding.element.id);
        if (const int node = result->network->node_of(finding.element); node != no_node)
            structure = nth(result->network->nodes, node).structure;
    }
    if (stage_of(finding.check.rule) == Stage::Levels && structure) {
        LevelBudget budget = level_budget(*result, structure);
        std::stable_sort(budget.parts.begin(), budget.parts.end(),
                         [](const BudgetPart& a, const BudgetPart& b) { return a.rise > b.rise; });
        int taken = 0;
        for (const BudgetPart& part : budget.parts)
            if (part.element.kind == Kind::Pipe && taken < 3 &&
                std::find(pipes.begin(), pipes.end(), part.element.id) == pipes.end()) {
                pipes.push_back(part.element.id);
                ++taken;
            }
    }
    const bool larger = finding.check.rule == Rule::MostFlowRatio || finding.check.rule == Rule::MostFilledDepth ||
                        finding.check.rule == Rule::MostVelocity || finding.check.rule == Rule::SizeDecrease ||
                        finding.check.rule == Rule::LeastSize || stage_of(finding.check.rule) == Stage::Levels;
    const auto offer = [&](Edit edit, std::string text, double cost) {
        if (edit.empty() || stop.stop_requested()) return false;
        edit.name = text;
        const Trial trial = try_edit(project, results, edit, before, finding.event, stop);
        if (stop.stop_requested()) return false;
        const bool mends = !std::binary_search(trial.keys.begin(), trial.keys.end(), finding.key());
        if (trial.gone == 0 && !mends) return false;
        list.push_back({std::move(edit), std::move(text), trial.gone, trial.added, mends, cost});
        return mends;
    };
    if (larger)
        for (const std::uint64_t id : pipes) {
            const Pipe& pipe = *project.pipes.find(id);
            Project with = project;
            for (int step = 0; step < 2; ++step) {  // one size up, then two
                const Edit edit = step_size(with, {id}, +1);
                if (edit.empty()) break;
                apply(with, edit);
                const Pipe& p = *with.pipes.find(id);
                const auto sizes = sizes_of(project, p.material, p.shape);
                offer(with_size(project, {id}, *sizes[size_index(sizes, p.size)]),
                      units.text(p.size, Quantity::Size) + " on " + pipe_name(project, pipe),
                      length_of(project, pipe) * (p.size - pipe.size));
            }
        }
    if (!pipes.empty() &&
        (finding.check.rule == Rule::MostFlowRatio || stage_of(finding.check.rule) == Stage::Levels)) {
        // A pipe beside: as large as the one that is there, or the smallest that still mends.
        const Pipe& pipe = *project.pipes.find(pipes.front());
        const auto sizes = sizes_of(project, pipe.material, pipe.shape);
        for (std::size_t i = size_index(sizes, pipe.size), tries = 0; i < sizes.size() && tries < 3; --i, ++tries) {
            Editing e(project, "");
            e.insert(relief_pipe(project, pipe, *sizes[i]));
            const std::size_t had = list.size();
            const bool mends = offer(e.take(),
                                     "a relief pipe of " + units.text(sizes[i]->size, Quantity::Size) + " beside " +
                                         pipe_name(project, pipe),
                                     length_of(project, pipe) * sizes[i]->size);
            if (mends && tries > 0) list.erase(list.end() - 2);  // the smaller one will do
            if (!mends) {
                if (tries > 0) list.erase(list.begin() + static_cast<std::ptrdiff_t>(had), list.end());
                break;
            }
        }
    }
    if (finding.check.rule == Rule::LeastDrop || finding.check.rule == Rule::LeastCover ||
        finding.check.rule == Rule::LeastSlope) {
        const int link = result->network->link_of(PipeId{finding.element.id});
        const Pipe* pipe = project.pipes.find(finding.element.id);
        if (link != no_link && pipe) {
            const Link& n = nth(result->network->links, link);
            const bool along = pipe->from == nth(result->network->nodes, n.from).structure;
            const auto rounded = [](double level) { return std::floor(level * 1000) / 1000; };
            Editing e(project, "");
            double cost = 0;
            std::string text;
            if (finding.check.rule == Rule::LeastDrop) {
                const double lower = rounded(n.invert_up + finding.check.margin());
                e.set(Kind::Pipe, pipe->id, along ? "invert_from" : "invert_to", lower);
                text = "start of " + pipe_name(project, *pipe) + " at " + units.text(lower, Quantity::Level);
            } else if (finding.check.rule == Rule::LeastSlope) {
                const double lower = rounded(n.invert_up - finding.check.limit * n.length);
                e.set(Kind::Pipe, pipe->id, along ? "invert_to" : "invert_from", lower);
                text = "end of " + pipe_name(project, *pipe) + " at " + units.text(lower, Quantity::Level);
            } else {
                e.set(Kind::Pipe, pipe->id, "invert_from", rounded(pipe->invert_from + finding.check.margin()));
                e.set(Kind::Pipe, pipe->id, "invert_to", rounded(pipe->invert_to + finding.check.margin()));
                text =
                    pipe_name(project, *pipe) + " " + units.text(-finding.check.margin(), Quantity::Length) + " lower";
            }
            cost = n.length * std::abs(finding.check.margin());
            offer(e.take(), text, cost);
        }
    }
    if (mended_by_inlets(finding.check.rule) && structure)
        for (InletChange& change : inlet_changes(project, *result, structure))
            offer(std::move(change.edit), std::move(change.text), change.growth);
    std::stable_sort(list.begin(), list.end(), [](const Remedy& a, const Remedy& b) {
        return std::tuple(!a.mends, a.added, -a.gone, a.cost) < std::tuple(!b.mends, b.added, -b.gone, b.cost);
    });
    if (std::string words = tailwater_words(project, *result, finding); !words.empty())
        list.push_back({{}, std::move(words), 0, 0, false, 0});
    return stop.stop_requested() ? std::vector<Remedy>{} : list;
}

std::vector<LadderStep> size_ladder(const Project& project, const Results& results, PipeId id, EventId event,
                                    const std::stop_token& stop, int below, int above) {
    std::vector<LadderStep> ladder;
    const Pipe* pipe = project.pipes.find(id.value);
    const RainEvent* rain = project.events.find(event.value);
    if (!pipe) return ladder;
    const auto sizes = sizes_of(project, pipe->material, pipe->shape);
    const long at = static_cast<long>(size_index(sizes, pipe->size));
    Project one_event = project;
    for (const RainEvent& e : project.events)
        if (e.id != event.value) one_event.events.erase(e.id);
    Results kept;
    if (const auto r = result_of(results, event)) kept.push_back(r);
    for (long i = std::max(0L, at - below); i <= std::min(static_cast<long>(sizes.size()) - 1, at + above); ++i) {
        const PipeSize* size = nth(sizes, i);
        LadderStep step{size, std::abs(size->size - pipe->size) < 1e-9, not_given, not_given};
        if (rain) {
            Project with = one_event;
            apply(with, with_size(project, id, *size));
            const Results tried = Solver::warm(one_event, kept).solve(with, 0, {}, stop);
            if (tried.empty()) return {};  // stopped
            const Network& net = *tried.front()->network;
            if (const int n = net.link_of(id); n != no_link) {
                const Link& l = nth(net.links, n);
                const LinkResult& r = nth(tried.front()->links, n);
                step.hgl_to_crown = r.level.head_up - height(l.section);
                step.flow_ratio = l.capacity > 0 ? r.flow.flow / l.capacity : not_given;
            }
        }
        ladder.push_back(step);
    }
    return ladder;
}

}  // namespace culvert
