// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/branch_remedy.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/base/contract.h"
#include "core/design/branches.h"
#include "core/design/pipe_fit.h"
#include "core/review/rules.h"

namespace culvert {
namespace {

constexpr int most_steps = 3, most_rounds = 30;
constexpr std::size_t most_pairs = 24;  ///< pipes that pairs are made of

bool cured_by_size(Rule rule) {
    switch (rule) {
        case Rule::MostFlowRatio:
        case Rule::MostFilledDepth:
        case Rule::MostVelocity:
        case Rule::MostSurcharge:
        case Rule::LeastFreeboard:
        case Rule::Flooding:
        case Rule::SizeDecrease:
        case Rule::LeastSize: return true;
        default: return false;
    }
}

using Sizes = std::map<std::uint64_t, const PipeSize*>;  ///< of the pipes that change

class BranchMender {
  public:
    BranchMender(const Project& project, const Results& results, EventId event, const std::stop_token& stop)
        : project_(project), results_(results), event_(event), stop_(stop) {}

    BranchRemedy run(const std::vector<PipeId>& run) {
        if (!gather(run)) return std::move(out_);
        before_ = beyond_keys(project_, results_);
        for (const FindingKey& k : before_) out_.before += wanted(k);
        if (out_.before == 0) {
            out_.why = "nothing on this run is beyond a limit that a larger pipe would keep";
            return std::move(out_);
        }
        if (!singles() && !pairs()) greedy();
        if (stop_.stop_requested()) return {};
        report();
        return std::move(out_);
    }

  private:
    struct Outcome {
        int left = 0, gone = 0, added = 0;
        [[nodiscard]] bool clean() const { return left == 0 && added == 0; }
        [[nodiscard]] int worth(int before) const { return before - left - added; }
    };
    struct Candidate {
        std::uint64_t pipe;
        const PipeSize* size;
        Outcome outcome;
        double cost;
    };

    /// The run's own elements, and the pipes whose sizes may change: its own, and those its water goes on through.
    bool gather(const std::vector<PipeId>& run) {
        if (run.empty() || results_.empty()) {
            out_.why = run.empty() ? "choose the pipes of a run" : "nothing is solved yet";
            return false;
        }
        const Network& net = *results_.front()->network;
        int last = no_node;
        for (const PipeId p : run) {
            elements_.insert({Kind::Pipe, p.value});
            const int link = net.link_of(p);
            if (link == no_link) continue;
            for (const int node : {nth(net.links, link).from, nth(net.links, link).to})
                elements_.insert({Kind::Structure, nth(net.nodes, node).structure.value});
            last = nth(net.links, link).to;
            add_pipe(p);
        }
        for (; last != no_node && nth(net.nodes, last).out != no_link; last = nth(net.nodes, last).down)
            add_pipe(nth(net.links, nth(net.nodes, last).out).pipe);
        return true;
    }
    void add_pipe(PipeId id) {
        const Pipe* p = project_.pipes.find(id.value);
        if (!p || p->size_locked || p->status != Status::Proposed || !seen_.insert(id.value).second) return;
        std::vector<const PipeSize*> larger;
        for (const PipeSize* s : sizes_of(project_, p->material, p->shape))
            if (s->size > p->size + 1e-9 && larger.size() < static_cast<std::size_t>(most_steps)) larger.push_back(s);
        if (!larger.empty()) pipes_.emplace_back(id.value, std::move(larger));
    }
    [[nodiscard]] bool wanted(const FindingKey& k) const {
        return std::get<2>(k) == event_ && elements_.contains(std::get<1>(k)) && cured_by_size(std::get<0>(k));
    }
    [[nodiscard]] Edit edit_of(const Sizes& sizes) const {
        Editing e(project_, "Mend a run");
        for (const auto& [pipe, size] : sizes) put_size(e, pipe, *size, Origin::Proposed);
        return e.take();
    }
    Outcome attempt(const Sizes& sizes) {
        ++out_.tried;
        const Trial t = try_edit(project_, results_, edit_of(sizes), before_, event_, stop_);
        Outcome o{0, t.gone, t.added};
        for (const FindingKey& k : t.keys) o.left += wanted(k);
        return o;
    }
    [[nodiscard]] double cost_of(const Sizes& sizes) const {
        Project with = project_;
        apply(with, edit_of(sizes));
        double cost = 0;
        for (const auto& [id, size] : sizes) {
            const Pipe &was = *project_.pipes.find(id), &now = *with.pipes.find(id);
            cost += length_of(project_, was) *
                    (price_of_size(project_, *size) - price_of_size(project_, size_of(was))) *
                    std::max(1.0, was.barrels);
            const double dig = trench_volume(with, now) - trench_volume(project_, was);
            if (!std::isnan(dig)) cost += dig * project_.settings().excavation_price;
        }
        return cost;
    }
    /// Takes a set where it is clean and cheaper than what is taken.
    bool take(const Sizes& sizes, const Outcome& o) {
        if (!o.clean()) return false;
        const double cost = cost_of(sizes);
        if (!taken_.empty() && cost >= cost_) return false;
        taken_ = sizes;
        cost_ = cost;
        outcome_ = o;
        return true;
    }

    bool singles() {
        for (const auto& [pipe, sizes] : pipes_)
            for (const PipeSize* s : sizes) {
                if (stop_.stop_requested()) return true;
                const Sizes one{{pipe, s}};
                const Outcome o = attempt(one);
                if (o.worth(out_.before) > 0 || o.left < out_.before) helpful_.push_back({pipe, s, o, cost_of(one)});
                if (take(one, o)) break;  // a larger one of the same pipe costs more
            }
        out_.smallest = !taken_.empty();
        return out_.smallest;
    }
    bool pairs() {
        std::set<std::uint64_t> by_worth;
        std::stable_sort(helpful_.begin(), helpful_.end(), [this](const Candidate& a, const Candidate& b) {
            return a.outcome.worth(out_.before) > b.outcome.worth(out_.before);
        });
        std::vector<std::pair<std::uint64_t, std::vector<const PipeSize*>>> list = pipes_;
        if (list.size() > most_pairs) {  // those that help, by how much
            for (const Candidate& c : helpful_)
                if (by_worth.size() < most_pairs) by_worth.insert(c.pipe);
            std::erase_if(list, [&](const auto& p) { return !by_worth.contains(p.first); });
        }
        for (std::size_t i = 0; i < list.size(); ++i)
            for (std::size_t k = i + 1; k < list.size(); ++k) {
                // The largest sizes first: where they do not cure it, no smaller ones do.
                if (stop_.stop_requested()) return true;
                const Sizes most{{list[i].first, list[i].second.back()}, {list[k].first, list[k].second.back()}};
                const Outcome o = attempt(most);
                if (o.left > 0) continue;
                take(most, o);
                for (const PipeSize* a : list[i].second)
                    for (const PipeSize* b : list[k].second) {
                        const Sizes two{{list[i].first, a}, {list[k].first, b}};
                        if (stop_.stop_requested()) return true;
                        if (!taken_.empty() && cost_of(two) >= cost_) continue;
                        take(two, attempt(two));
                    }
            }
        out_.smallest = !taken_.empty() && list.size() == pipes_.size();
        return !taken_.empty();
    }
    /// What helps most, one change after another; then what is not needed is taken back.
    void greedy() {
        Sizes now;
        Outcome standing{out_.before, 0, 0};
        for (int round = 0; round < most_rounds && !standing.clean() && !stop_.stop_requested(); ++round) {
            Sizes best;
            Outcome best_outcome;
            double best_rate = 0;
            for (const auto& [pipe, sizes] : pipes_) {
                const auto at = now.find(pipe);
                for (const PipeSize* s : sizes) {
                    if (at != now.end() && s->size <= at->second->size + 1e-9) continue;
                    Sizes next = now;
                    next[pipe] = s;
                    const Outcome o = attempt(next);
                    if (stop_.stop_requested()) return;
                    const int better = (standing.left + standing.added) - (o.left + o.added);
                    const double rate = better / std::max(1.0, cost_of(next) - cost_of(now));
                    if (better > 0 && rate > best_rate) {
                        best = next;
                        best_outcome = o;
                        best_rate = rate;
                    }
                    break;  // one step at a time
                }
            }
            if (best.empty()) break;
            now = std::move(best);
            standing = best_outcome;
        }
        if (now.empty()) {
            out_.why = "no larger pipe of this run or below it helps: look at tailwater, levels and losses";
            return;
        }
        for (auto at = now.begin(); at != now.end() && !stop_.stop_requested();) {
            Sizes without = now;
            without.erase(at->first);
            const Outcome o = attempt(without);
            const std::uint64_t id = at->first;
            if (o.left + o.added <= standing.left + standing.added) {
                now = std::move(without);
                standing = o;
                at = now.upper_bound(id);
            } else ++at;
        }
        taken_ = std::move(now);
        outcome_ = standing;
        cost_ = cost_of(taken_);
    }

    void report() {
        if (taken_.empty()) return;
        out_.edit = edit_of(taken_);
        for (const auto& [id, size] : taken_) out_.changes.push_back({{id}, project_.pipes.find(id)->size, size->size});
        out_.left = outcome_.left;
        out_.gone = outcome_.gone;
        out_.added = outcome_.added;
        out_.cost = cost_;
    }

    const Project& project_;
    const Results& results_;
    EventId event_;
    const std::stop_token& stop_;
    std::set<ElementRef> elements_;
    std::set<std::uint64_t> seen_;
    std::vector<std::pair<std::uint64_t, std::vector<const PipeSize*>>> pipes_;
    FindingKeys before_;
    std::vector<Candidate> helpful_;
    Sizes taken_;
    Outcome outcome_;
    double cost_ = 0;
    BranchRemedy out_;
};

}  // namespace

BranchRemedy mend_branch(const Project& project, const Results& results, const std::vector<PipeId>& run, EventId event,
                         const std::stop_token& stop) {
    return BranchMender(project, results, event, stop).run(run);
}

}  // namespace culvert
