// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/ties.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/contract.h"

namespace culvert {

std::string tie_words(const Project& project, const Tie& tie) {
    const UnitSet u = units_of(project);
    const auto with = [&](std::string what) {
        if (tie.value != 0) what += (tie.value < 0 ? " - " : " + ") + u.entry(std::abs(tie.value), Quantity::Length);
        return what;
    };
    switch (tie.to) {
        case Tie::To::Level: return u.entry(tie.value, Quantity::Level);
        case Tie::To::Ground: return with("ground");
        case Tie::To::Rim: return with("rim");
        case Tie::To::Cover: return "cover " + u.entry(tie.value, Quantity::Length);
        case Tie::To::Line: break;
    }
    return with(element_name(project, Kind::Pipe, tie.line.value));
}

namespace {

constexpr int most_passes = 32;  ///< over ties to pipes that are tied themselves
constexpr double kept_within = 5e-4;

class Follower {
  public:
    Follower(const Project& project, const Ground& ground, const std::stop_token& stop)
        : project_(project), ground_(ground), stop_(stop), network_(compile(project)) {}

    TiesFollowed run() {
        for (const Pipe& p : project_.pipes) out_.ties += !p.tie_from.empty() + !p.tie_to.empty();
        if (out_.ties == 0) return std::move(out_);
        find_runs();
        Project now = project_;
        bool settled = false;
        for (int pass = 0; pass < most_passes && !stop_.stop_requested(); ++pass) {
            out_.conflicts.clear();
            out_.broken.clear();
            bool moved = false;
            for (const auto& pipes : runs_) {
                const std::optional<RunAsk> ask = asked(now, pipes);
                if (!ask) continue;
                Graded graded = grade_run(now, network_, *ask, ground_);
                if (!graded.error.empty()) {
                    out_.broken.push_back(graded.error);
                    continue;
                }
                moved = moved || !graded.edit.empty();
                apply(now, graded.edit);
                out_.conflicts.insert(out_.conflicts.end(), graded.conflicts.begin(), graded.conflicts.end());
            }
            settled = !moved;
            if (settled) break;
        }
        if (!settled && !stop_.stop_requested()) {
            out_.broken.emplace_back(
                "ties lead to each other and their levels come to no rest: none of them follows. Take one of these "
                "ties "
                "away.");
            return std::move(out_);
        }
        for (const Pipe& p : project_.pipes)
            if ((!p.tie_from.empty() || !p.tie_to.empty()) && !followed_.contains(p.id))
                out_.broken.push_back(pipe_name(project_, p) + (p.status == Status::Proposed
                                                                    ? ": it is no part of a run to an outfall"
                                                                    : ": it is not proposed, and keeps its levels"));
        Editing e(project_, "Levels follow their ties");
        for (const Pipe& was : project_.pipes) {
            const Pipe& is = *now.pipes.find(was.id);
            for (const auto& [key, level, before, tie] :
                 {std::tuple{"invert_from", is.invert_from, was.invert_from, &was.tie_from},
                  {"invert_to", is.invert_to, was.invert_to, &was.tie_to}}) {
                if (std::abs(level - before) < kept_within || (std::isnan(level) && std::isnan(before))) continue;
                if (!tie->empty()) {
                    ++out_.moved;
                    out_.moves.push_back({{was.id}, tie == &was.tie_from, before, level});
                }
                e.set(Kind::Pipe, was.id, key, level, is.origin[*field_index(Kind::Pipe, key)]);
            }
        }
        out_.edit = stop_.stop_requested() ? Edit{} : e.take();
        return std::move(out_);
    }

  private:
    /// Every main pipe is in one run: the longest ways first, by number of pipes from their heads.
    void find_runs() {
        std::vector<int> depth(network_.nodes.size(), 0);  // most pipes from a head down to the node
        std::vector<int> up(network_.nodes.size(), no_link);
        for (std::size_t i = 0; i < network_.nodes.size(); ++i) {
            const Node& n = network_.nodes[i];
            if (n.out == no_link) continue;
            if (int& d = nth(depth, n.down); depth[i] + 1 > d) {
                d = depth[i] + 1;
                nth(up, n.down) = n.out;
            }
        }
        for (std::size_t i = network_.nodes.size(); i-- > 0;) {
            // A run ends at an outfall, or where it joins a longer one.
            const Node& n = network_.nodes[i];
            for (int in = n.first_in; in != no_link; in = nth(network_.links, in).next_in)
                if (n.out == no_link || in != up[i]) take_run(in, up);
        }
    }
    void take_run(int last, const std::vector<int>& up) {
        std::vector<PipeId> pipes;
        const auto done = [&] {
            std::reverse(pipes.begin(), pipes.end());
            if (std::any_of(pipes.begin(), pipes.end(), [&](PipeId id) {
                    const Pipe* p = project_.pipes.find(id.value);
                    return !p->tie_from.empty() || !p->tie_to.empty();
                }))
                runs_.push_back(pipes);
            for (const PipeId id : pipes) followed_.insert(id.value);
            pipes.clear();
        };
        for (int link = last; link != no_link; link = nth(up, nth(network_.links, link).from)) {
            const PipeId id = nth(network_.links, link).pipe;
            if (project_.pipes.find(id.value)->status == Status::Proposed) pipes.push_back(id);
            else done();
        }
        done();
    }

    /// Ties and typed levels of a run as pins; none where a tie cannot be read.
    std::optional<RunAsk> asked(const Project& now, const std::vector<PipeId>& pipes) {
        static const std::size_t from = *field_index(Kind::Pipe, "invert_from"),
                                 to = *field_index(Kind::Pipe, "invert_to");
        RunAsk ask;
        ask.pipes = pipes;
        ask.matching = project_.settings().matching;
        ask.places.resize(pipes.size() + 1);
        for (std::size_t i = 0; i < pipes.size(); ++i) {
            const Pipe& p = *now.pipes.find(pipes[i].value);
            const int link = network_.link_of(pipes[i]);
            const bool along = p.from == nth(network_.nodes, nth(network_.links, link).from).structure;
            for (const bool head : {true, false}) {
                const bool start = head == along;
                const std::string& words = start ? p.tie_from : p.tie_to;
                std::optional<Tie>& at = head ? ask.places[i].leaving : ask.places[i + 1].arriving;
                if (!words.empty()) {
                    const TieRead read = read_tie(now, words);
                    if (!read.tie) {
                        out_.broken.push_back(pipe_name(now, p) + ": " + read.error);
                        return {};
                    }
                    at = read.tie;
                } else if (p.origin[start ? from : to] == Origin::Typed &&
                           !std::isnan(start ? p.invert_from : p.invert_to)) {
                    at = Tie{Tie::To::Level, start ? p.invert_from : p.invert_to, {}, {}};
                }
            }
        }
        return ask;
    }

    const Project& project_;
    const Ground& ground_;
    const std::stop_token& stop_;
    Network network_;
    std::vector<std::vector<PipeId>> runs_;  ///< each from the head down
    std::set<std::uint64_t> followed_;       ///< pipes of runs
    TiesFollowed out_;
};

}  // namespace

bool has_ties(const Project& project) {
    return std::any_of(project.pipes.begin(), project.pipes.end(),
                       [](const Pipe& p) { return !p.tie_from.empty() || !p.tie_to.empty(); });
}

std::vector<Finding> tie_findings(const Project& project, const TiesFollowed& followed) {
    const UnitSet u = units_of(project);
    std::vector<Finding> list;
    for (const TieMoved& m : followed.moves) {
        const Pipe* p = project.pipes.find(m.pipe.value);
        if (!p) continue;
        Finding f;
        f.severity = Severity::Warning;
        f.element = {Kind::Pipe, p->id};
        f.check.rule = Rule::Data;
        f.check.verdict = Verdict::Near;
        f.field = m.start ? "invert_from" : "invert_to";
        f.title = "tie no longer holds";
        const StructureId at = m.start ? p->from : p->to;
        f.detail = "Pipe " + element_name(project, Kind::Pipe, p->id) + " stands at " +
                   (std::isnan(m.level) ? std::string("no level") : u.text(m.level, Quantity::Level)) + " at " +
                   element_name(project, Kind::Structure, at.value) + "; its tie, " +
                   (m.start ? p->tie_from : p->tie_to) + ", gives " + u.text(m.tied, Quantity::Level) + " now.";
        f.remedy = "Let levels follow their ties, or type this level and untie it.";
        list.push_back(std::move(f));
    }
    return list;
}

TiesFollowed follow_ties(const Project& project, const Ground& ground, const std::stop_token& stop) {
    return Follower(project, ground, stop).run();
}

}  // namespace culvert
