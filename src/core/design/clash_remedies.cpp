// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/clash_remedies.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/contract.h"
#include "core/design/branches.h"
#include "core/design/grading.h"

namespace culvert {
namespace {

constexpr int most_around = 3;  ///< pipes of the run on either side

class ClashMender {
  public:
    ClashMender(const Project& project, const Results& results, const Finding& finding, const std::stop_token& stop)
        : project_(project),
          results_(results),
          finding_(finding),
          stop_(stop),
          network_(results.empty() ? compile(project) : *results.front()->network) {}

    std::vector<Remedy> run() {
        const Pipe* pipe = project_.pipes.find(finding_.element.id);
        const int link = pipe ? network_.link_of(PipeId{pipe->id}) : no_link;
        if (link == no_link || pipe->status != Status::Proposed) return {};
        all_ = clashes(project_);
        for (const Clash& c : all_) beyond_ += c.verdict == Verdict::Beyond;
        before_ = beyond_keys(project_, results_);
        for (const Clash& c : all_)
            if (c.pipe.value == pipe->id && c.verdict == Verdict::Beyond &&
                element_name(project_, c.other.kind, c.other.id) == finding_.field)
                for (const bool under : {true, false}) mend(*pipe, link, c, under);
        std::stable_sort(list_.begin(), list_.end(), [](const Remedy& a, const Remedy& b) {
            return std::tuple(!a.mends, a.added, -a.gone, a.cost) < std::tuple(!b.mends, b.added, -b.gone, b.cost);
        });
        return stop_.stop_requested() ? std::vector<Remedy>{} : std::move(list_);
    }

  private:
    void mend(const Pipe& pipe, int link, const Clash& c, bool under) {
        const double least = std::isnan(c.least_vertical) ? 0 : c.least_vertical, h = height(section_of(pipe));
        const double asked = under ? c.other_bottom - least - pipe.wall - h : c.other_top + least + pipe.wall;
        if (std::isnan(asked)) return;
        // Rounded away from the other line.
        const double level = (under ? std::floor(asked * 1000 - 1e-6) : std::ceil(asked * 1000 + 1e-6)) / 1000;
        for (int around = 0; around <= 2 * most_around; ++around)
            for (int up = std::max(0, around - most_around); up <= std::min(around, most_around); ++up) {
                if (stop_.stop_requested()) return;
                if (try_run(pipe, link, c, level, under, up, around - up)) return;
            }
    }

    /// The run of so many pipes above and below, its ends as they are. True where that is a remedy.
    bool try_run(const Pipe& pipe, int link, const Clash& c, double level, bool under, int up, int down) {
        std::vector<int> run{link};
        for (int k = 0; k < up; ++k) {  // upstream by the pipe that comes lowest
            int best = no_link;
            for (int in = nth(network_.nodes, nth(network_.links, run.front()).from).first_in; in != no_link;
                 in = nth(network_.links, in).next_in)
                if (best == no_link || nth(network_.links, in).invert_down < nth(network_.links, best).invert_down)
                    best = in;
            if (best == no_link) return false;
            run.insert(run.begin(), best);
        }
        for (int k = 0; k < down; ++k) {
            const int next = nth(network_.nodes, nth(network_.links, run.back()).to).out;
            if (next == no_link) return false;
            run.push_back(next);
        }
        RunAsk ask;
        ask.matching = project_.settings().matching;
        for (const int l : run) ask.pipes.push_back(nth(network_.links, l).pipe);
        ask.places.resize(run.size() + 1);
        const auto hold = [](double z) {
            Tie t;
            t.value = z;
            return t;
        };
        ask.places.front().leaving = hold(nth(network_.links, run.front()).invert_up);
        ask.places.back().arriving = hold(nth(network_.links, run.back()).invert_down);
        const Link& l = nth(network_.links, link);
        const bool along = pipe.from == nth(network_.nodes, l.from).structure;
        const double drawn = drawn_length(project_, pipe), scale = drawn > 0 ? l.length / drawn : 1;
        const double at = std::clamp((along ? c.along : drawn - c.along) * scale, 0.0, l.length);
        ask.places[static_cast<std::size_t>(up)].along.push_back({0, at, level});
        Graded graded = grade_run(project_, network_, ask);
        if (!graded.error.empty() || !graded.conflicts.empty() || graded.edit.empty()) return false;
        return take(std::move(graded.edit), c, under, up + down);
    }

    bool take(Edit edit, const Clash& c, bool under, int others) {
        Project with = project_;
        apply(with, edit);
        int beyond = 0;
        bool here = false;
        for (const Clash& k : clashes(with)) {
            beyond += k.verdict == Verdict::Beyond;
            here = here || (k.pipe == c.pipe && k.other == c.other && k.verdict == Verdict::Beyond);
        }
        if (here || beyond >= beyond_) return false;
        Remedy r;
        r.text = element_name(project_, Kind::Pipe, c.pipe.value) + (under ? " under " : " over ") +
                 element_name(project_, c.other.kind, c.other.id) +
                 (others == 0   ? ""
                  : others == 1 ? ", with one pipe beside it"
                                : ", with " + std::to_string(others) + " pipes beside it");
        edit.name = r.text;
        const Trial trial = try_edit(project_, results_, edit, before_, {}, stop_);
        if (stop_.stop_requested()) return true;
        r.gone = trial.gone + beyond_ - beyond;
        r.added = trial.added;
        r.mends = true;
        for (const Change& change : edit.changes)
            if (const Patch* p = std::get_if<Patch>(&change); p && seen_.insert(p->id).second) {
                const Pipe *now = with.pipes.find(p->id), *was = project_.pipes.find(p->id);
                if (now && was) r.cost += std::abs(trench_volume(with, *now) - trench_volume(project_, *was));
            }
        seen_.clear();
        r.edit = std::move(edit);
        list_.push_back(std::move(r));
        return true;
    }

    const Project& project_;
    const Results& results_;
    const Finding& finding_;
    const std::stop_token& stop_;
    const Network network_;
    std::vector<Clash> all_;
    FindingKeys before_;
    int beyond_ = 0;
    std::set<std::uint64_t> seen_;
    std::vector<Remedy> list_;
};

}  // namespace

std::vector<Remedy> clash_remedies(const Project& project, const Results& results, const Finding& finding,
                                   const std::stop_token& stop) {
    return ClashMender(project, results, finding, stop).run();
}

}  // namespace culvert
