// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/grading.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/base/contract.h"
#include "core/design/pipe_fit.h"
#include "core/design/ties.h"
#include "core/model/lay.h"
#include "core/review/review.h"

namespace culvert {
namespace {

constexpr double agreed = 0.0005;  ///< m: levels are multiples of a millimetre
double up_mm(double fall) { return std::ceil(fall * 1000 - 1e-6) / 1000; }

/// Length of a pipe between two pins, which may stand in the same pipe or have it wholly between them.
double between(const ChainPipe& p, std::size_t i, const ChainPin& a, const ChainPin& b) {
    const double from = i == a.pipe ? a.along : 0, to = i == b.pipe ? b.along : p.length;
    return std::max(0.0, to - from);
}

/// Slopes between two neighbouring pins; false where nothing is free and they do not agree.
bool bind(std::span<const ChainPipe> pipes, const ChainPin& a, const ChainPin& b, std::vector<double>& slopes,
          double& reached) {
    double fall = 0, free = 0;
    for (std::size_t i = a.pipe; i <= b.pipe; ++i) {
        const double l = between(pipes[i], i, a, b);
        if (i > a.pipe) fall += pipes[i].fall;
        if (std::isnan(slopes[i])) free += l;
        else fall += slopes[i] * l;
    }
    if (free > 0) {
        const double slope = (a.level - b.level - fall) / free;
        for (std::size_t i = a.pipe; i <= b.pipe; ++i)
            if (std::isnan(slopes[i]) && between(pipes[i], i, a, b) > 0) slopes[i] = slope;
        return true;
    }
    reached = a.level - fall;
    return std::abs(reached - b.level) <= agreed;
}

}  // namespace

Chain grade_chain(std::span<const ChainPipe> pipes, std::span<const ChainPin> pins) {
    Chain out;
    if (pipes.empty() || pins.empty()) return out;
    std::vector<double> slopes;
    for (const ChainPipe& p : pipes) slopes.push_back(p.slope);
    std::vector<std::size_t> kept{0};
    for (std::size_t k = 1; k < pins.size(); ++k) {
        double reached = 0;
        if (bind(pipes, pins[kept.back()], pins[k], slopes, reached)) kept.push_back(k);
        else out.clashes.push_back({kept.back(), k, reached});
    }
    for (std::size_t i = 0; i < pipes.size(); ++i)
        if (std::isnan(slopes[i])) slopes[i] = pipes[i].now;

    // From each pin down to the next, so that its own level is exact; above the first, upwards.
    out.levels.resize(pipes.size());
    for (std::size_t i = 0; i < pipes.size(); ++i) out.levels[i].slope = slopes[i];
    const ChainPin& first = pins[kept.front()];
    double level = first.level + slopes[first.pipe] * first.along;
    for (std::size_t i = first.pipe + 1; i-- > 0;) {
        out.levels[i].up = level;
        out.levels[i].down = level - slopes[i] * pipes[i].length;
        out.levels[i].below = kept.front();
        if (i > 0) level += pipes[i].fall + slopes[i - 1] * pipes[i - 1].length;
    }
    for (std::size_t n = 0; n < kept.size(); ++n) {
        const ChainPin& pin = pins[kept[n]];
        const std::size_t end = n + 1 < kept.size() ? pins[kept[n + 1]].pipe : pipes.size() - 1;
        const std::size_t next = n + 1 < kept.size() ? kept[n + 1] : no_pin;
        double at = pin.level;
        for (std::size_t i = pin.pipe; i <= end; ++i) {
            const double from = i == pin.pipe ? pin.along : 0;
            ChainLevel& l = out.levels[i];
            if (i > pin.pipe || from == 0) {
                l.up = at;
                l.above = kept[n];
            }
            l.down = at - slopes[i] * (pipes[i].length - from);
            if (i > pin.pipe || from < pipes[i].length) {
                l.above = kept[n];
                l.below = next;
            } else l.down = pin.level;
            if (i < end) at = l.down - pipes[i + 1].fall;
        }
    }
    // A pin at the very end of a pipe is its level, to the last digit.
    for (const std::size_t k : kept)
        if (pins[k].along == pipes[pins[k].pipe].length) out.levels[pins[k].pipe].down = pins[k].level;
    return out;
}

TieRead read_tie(const Project& project, std::string_view words) {
    const auto trimmed = [](std::string_view s) {
        while (!s.empty() && s.front() == ' ') s.remove_prefix(1);
        while (!s.empty() && s.back() == ' ') s.remove_suffix(1);
        return s;
    };
    words = trimmed(words);
    const UnitSet units = units_of(project);
    Tie tie;
    tie.words = std::string(words);
    const auto offset = [&](std::string_view rest, double sign) -> TieRead {
        rest = trimmed(rest);
        if (rest.empty()) return {tie, {}};
        const Entry e = read_entry(rest, Quantity::Length, units);
        if (!e.ok) return {{}, std::string(words) + ": " + e.error};
        tie.value = sign * e.value;
        return {tie, {}};
    };
    for (const auto& [word, to] : {std::pair{std::string_view("ground"), Tie::To::Ground}, {"rim", Tie::To::Rim}})
        if (words.starts_with(word)) {
            tie.to = to;
            const std::string_view rest = trimmed(words.substr(word.size()));
            if (rest.empty()) return {tie, {}};
            if (rest.front() == '-' || rest.front() == '+') return offset(rest.substr(1), rest.front() == '-' ? -1 : 1);
            return {{}, std::string(words) + ": write \"" + std::string(word) + " - 1.5\""};
        }
    if (words.starts_with("cover")) {
        tie.to = Tie::To::Cover;
        if (trimmed(words.substr(5)).empty()) return {{}, "cover: write how much, as in \"cover 1.2\""};
        return offset(words.substr(5), 1);
    }
    if (const Entry e = read_entry(words, Quantity::Level, units); e.ok) {
        tie.value = e.value;
        return {tie, {}};
    }
    // A pipe, perhaps with an offset behind its name: the longest name that fits.
    for (std::size_t cut = words.size(); cut > 0; --cut) {
        if (cut < words.size() && words[cut] != ' ' && words[cut] != '+' && words[cut] != '-') continue;
        const ElementRef e = find_element(project, std::string(trimmed(words.substr(0, cut))));
        if (e.kind != Kind::Pipe) continue;
        tie.to = Tie::To::Line;
        tie.line = {e.id};
        const std::string_view rest = trimmed(words.substr(cut));
        if (rest.empty()) return {tie, {}};
        if (rest.front() == '-' || rest.front() == '+') return offset(rest.substr(1), rest.front() == '-' ? -1 : 1);
    }
    return {{},
            "\"" + std::string(words) +
                "\" is no level and no pipe: write a level, \"ground - 1.5\", \"rim - 1.5\", \"cover 1.2\", or a pipe "
                "with an offset, \"B1–A3 - 0.05\""};
}

namespace {

/// Which way the water of a pipe runs: its structure above, and the one below.
struct Ends {
    StructureId up, down;
};
Ends ends_of(const Project& project, const Network& network, PipeId id) {
    const int link = network.link_of(id);
    if (link != no_link)
        return {nth(network.nodes, nth(network.links, link).from).structure,
                nth(network.nodes, nth(network.links, link).to).structure};
    const Pipe* p = project.pipes.find(id.value);
    return p ? Ends{p->from, p->to} : Ends{};
}

}  // namespace

RunFound run_between(const Project& project, const Network& network, StructureId from, StructureId to) {
    RunFound out;
    int node = network.node_of(from);
    const auto name = [&](StructureId s) { return element_name(project, Kind::Structure, s.value); };
    while (node != no_node && nth(network.nodes, node).structure != to) {
        const int link = nth(network.nodes, node).out;
        if (link == no_link) break;
        out.pipes.push_back(nth(network.links, link).pipe);
        node = nth(network.nodes, node).down;
    }
    if (node == no_node || nth(network.nodes, node).structure != to) {
        out.pipes.clear();
        out.error = "The way of the water from " + name(from) + " does not pass " + name(to) +
                    ": choose two structures of one run, the upper one first.";
    } else if (out.pipes.empty()) out.error = "A run leads from one structure to another: choose two.";
    return out;
}

RunFound run_through(const Project& project, const Network& network, const std::vector<ElementRef>& elements) {
    std::vector<PipeId> pipes;
    std::vector<StructureId> structures;
    for (const ElementRef e : elements) {
        if (e.kind == Kind::Pipe) pipes.push_back({e.id});
        if (e.kind == Kind::Structure) structures.push_back({e.id});
    }
    if (pipes.size() == 1 && structures.empty()) return {pipes, {}};  // also one that closes a ring
    std::vector<StructureId> asked = structures;
    for (const PipeId p : pipes) {
        const Ends ends = ends_of(project, network, p);
        asked.push_back(ends.up);
        asked.push_back(ends.down);
    }
    if (asked.size() < 2) return {{}, "Choose two structures of a run, or its pipes."};
    // The head is that from which the way down passes all the others.
    std::string missed;
    for (const StructureId head : asked) {
        std::size_t last = 0;
        std::vector<PipeId> way;
        std::vector<StructureId> passed{head};
        for (int node = network.node_of(head); node != no_node && nth(network.nodes, node).out != no_link;) {
            way.push_back(nth(network.links, nth(network.nodes, node).out).pipe);
            node = nth(network.nodes, node).down;
            passed.push_back(nth(network.nodes, node).structure);
        }
        bool all = true;
        for (const StructureId s : asked) {
            const auto at = std::find(passed.begin(), passed.end(), s);
            if (at == passed.end()) {
                all = false;
                missed = element_name(project, Kind::Structure, head.value) + " and " +
                         element_name(project, Kind::Structure, s.value);
                break;
            }
            last = std::max(last, static_cast<std::size_t>(at - passed.begin()));
        }
        for (const PipeId p : pipes)
            if (all && std::find(way.begin(), way.end(), p) == way.end()) {
                all = false;
                missed = element_name(project, Kind::Pipe, p.value) + " and the others";
            }
        if (!all) continue;
        way.resize(last);
        if (way.empty()) return {{}, "A run leads from one structure to another: choose two."};
        return {way, {}};
    }
    return {{},
            missed +
                " do not lie on one run: the way of the water from one does not pass the other. A run does not "
                "branch; grade each branch by itself."};
}

namespace {

class Grading {
  public:
    Grading(const Project& project, const Network& network, const RunAsk& ask, const Ground& ground)
        : project_(project),
          ask_(ask),
          ground_(ground),
          network_(network),
          units_(units_of(project)),
          limits_(project) {}

    Graded run() {
        if (!gather() || !pin_all()) return std::move(out_);
        const Chain chain = grade_chain(chain_, pins_);
        take(chain);
        say_clashes(chain);
        say_slopes(chain);
        say_places(chain);
        say_branches();
        write();
        return std::move(out_);
    }

  private:
    static constexpr double shares[] = {0, 0.8, 0.5, 1};

    [[nodiscard]] std::string name(StructureId s) const { return element_name(project_, Kind::Structure, s.value); }
    [[nodiscard]] std::string name(PipeId p) const { return element_name(project_, Kind::Pipe, p.value); }
    [[nodiscard]] std::string level(double v) const { return units_.text(v, Quantity::Level); }
    [[nodiscard]] std::string metres(double v) const { return units_.text(v, Quantity::Length); }
    [[nodiscard]] const PlaceAsk& asked(std::size_t i) const {
        static const PlaceAsk nothing;
        return i < ask_.places.size() ? ask_.places[i] : nothing;
    }
    bool fail(std::string why) {
        out_.error = std::move(why);
        return false;
    }

    bool gather() {
        if (ask_.pipes.empty()) return fail("Choose the pipes of a run, or two of its structures.");
        const std::size_t n = ask_.pipes.size();
        double x = 0;
        for (std::size_t i = 0; i < n; ++i) {
            const Pipe* p = project_.pipes.find(ask_.pipes[i].value);
            if (!p) return fail("A pipe of the run is not in the project any more.");
            const Ends ends = ends_of(project_, network_, ask_.pipes[i]);
            if (i > 0 && ends.up != below_) return fail(name(ask_.pipes[i]) + " does not follow on the pipe above it.");
            const Structure* s = project_.structures.find(ends.up.value);
            const double l = length_of(project_, *p);
            if (!s || !project_.structures.find(ends.down.value)) return fail(name(ask_.pipes[i]) + " lacks an end.");
            if (!(l > 0)) return fail(name(ask_.pipes[i]) + " has no length.");
            if (p->status != Status::Proposed)
                return fail(name(ask_.pipes[i]) + " is " + (p->status == Status::Existing ? "existing" : "abandoned") +
                            ": only proposed pipes are graded. Choose the run above or below it.");
            pipes_.push_back(p);
            along_.push_back(p->from == ends.up);
            place(ends.up, x);
            GradedPlace& at = out_.places.back();
            at.pipe = {p->id};
            at.leaving_before = along_.back() ? p->invert_from : p->invert_to;
            const double end = along_.back() ? p->invert_to : p->invert_from;
            at.slope_before = (at.leaving_before - end) / l;
            if (i > 0) at.fall = fall_at(i);
            else if (!std::isnan(asked(0).drop)) at.fall = asked(0).drop;
            // In whole millimetres, so that rounded levels keep it: never less than asked.
            const double slope = std::isnan(asked(i).slope) ? not_given : up_mm(asked(i).slope * l) / l;
            chain_.push_back({l, slope,
                              std::isnan(at.slope_before) ? project_.settings().default_slope : at.slope_before,
                              i > 0 ? at.fall : 0});
            before_end_ = end;
            below_ = ends.down;
            x += l;
        }
        place(below_, x);
        return true;
    }
    void place(StructureId id, double x) {
        GradedPlace at;
        at.structure = id;
        at.x = x;
        const Structure& s = *project_.structures.find(id.value);
        at.rim = s.rim;
        at.ground = placed(s) && !ground_.empty() ? ground_.elevation({s.x, s.y}) : not_given;
        if (std::isnan(at.ground)) at.ground = s.rim;
        if (!out_.places.empty()) at.arriving_before = before_end_;
        out_.places.push_back(at);
    }
    /// Fall across the structure between two pipes of the run.
    [[nodiscard]] double fall_at(std::size_t i) const {
        const StructureId at = out_.places[i].structure;
        const Structure& s = *project_.structures.find(at.value);
        if (!std::isnan(asked(i).drop)) return up_mm(asked(i).drop);
        const double limit = limits_.limit(LimitKind::LeastDrop, pipes_[i]->id).value;
        const double drop =
            s.kind == StructureKind::Joint ? 0 : std::max(drop_across(project_, at), std::isnan(limit) ? 0 : limit);
        const double share = nth(shares, ask_.matching);
        return up_mm(std::max(drop, share * (height(section_of(*pipes_[i])) - height(section_of(*pipes_[i - 1])))));
    }

    /// Level of a tie at a place, for the pipe that leaves it, or the one that arrives.
    double resolve(const Tie& tie, std::size_t place, bool arriving) {
        const GradedPlace& at = out_.places[place];
        const Pipe& pipe = *pipes_[arriving ? place - 1 : place];
        switch (tie.to) {
            case Tie::To::Level: return tie.value;
            case Tie::To::Ground: return to_mm(at.ground + tie.value);
            case Tie::To::Rim: return to_mm(at.rim + tie.value);
            case Tie::To::Cover: return floor_mm(at.rim - tie.value - pipe.wall - height(section_of(pipe)));
            case Tie::To::Line: break;
        }
        const Pipe* line = project_.pipes.find(tie.line.value);
        if (!line) return not_given;
        if (line->from == at.structure) return to_mm(line->invert_from + tie.value);
        if (line->to == at.structure) return to_mm(line->invert_to + tie.value);
        const Structure& s = *project_.structures.find(at.structure.value);
        const std::vector<Point> way = pipe_line(project_, *line);
        if (way.empty() || !placed(s)) return not_given;
        const double station = station_of(way, {s.x, s.y}).station, all = length(way);
        const double share = all > 0 ? station / all : 0;
        return to_mm(line->invert_from + share * (line->invert_to - line->invert_from) + tie.value);
    }
    bool pin(const Tie& tie, std::size_t place, bool arriving) {
        const double z = resolve(tie, place, arriving);
        const std::string where = name(out_.places[place].structure);
        if (std::isnan(z))
            return fail(where + ": \"" + tie.words + "\" gives no level there: " +
                        (tie.to == Tie::To::Line ? "the pipe it names has no levels." : "its rim is not given."));
        const std::size_t at = arriving ? place - 1 : place;
        pins_.push_back({at, arriving ? chain_[at].length : 0, z});
        pin_names_.push_back(where + (arriving ? " arriving " : " leaving ") + level(z));
        pin_place_.push_back(place);
        (arriving ? out_.places[place].arriving_pinned : out_.places[place].leaving_pinned) = true;
        ends_[{at, !arriving}] = &tie;
        return true;
    }
    bool pin_all() {
        const std::size_t n = pipes_.size();
        for (std::size_t i = 0; i <= n; ++i) {
            const PlaceAsk& a = asked(i);
            if (i > 0 && a.arriving && !pin(*a.arriving, i, true)) return false;
            if (i == 0 && a.arriving)
                return fail(name(out_.places[0].structure) + ": no pipe of the run arrives there.");
            if (i == n && a.leaving) return fail(name(out_.places[n].structure) + ": no pipe of the run leaves it.");
            if (i < n && a.leaving && !pin(*a.leaving, i, false)) return false;
            if (ask_.every && !a.leaving && !a.arriving)
                if (!pin(*ask_.every, i, i == n)) return false;
            if (i > 0 && i < n && a.arriving && a.leaving) {  // both pinned: they are the fall
                const double fall = pins_[pins_.size() - 2].level - pins_.back().level;
                chain_[i].fall = out_.places[i].fall = fall;
                if (fall < -agreed)
                    say({Kind::Structure, out_.places[i].structure.value},
                        "the pipe below " + name(out_.places[i].structure) + " starts " + metres(-fall) +
                            " above the end of the one that enters",
                        {pin_names_.size() - 2, pin_names_.size() - 1});
            }
            std::vector<ChainPin> inside = i < n ? a.along : std::vector<ChainPin>{};
            std::sort(inside.begin(), inside.end(), [](const auto& p, const auto& q) { return p.along < q.along; });
            for (ChainPin p : inside) {
                p.pipe = i;
                if (!(p.along >= 0 && p.along <= chain_[i].length))
                    return fail(name(ask_.pipes[i]) + " is " + metres(chain_[i].length) + " long: no level at " +
                                metres(p.along) + " of it.");
                pins_.push_back(p);
                pin_names_.push_back(name(ask_.pipes[i]) + " at " + metres(p.along) + " " + level(p.level));
                pin_place_.push_back(i);
            }
        }
        if (pins_.empty()) {  // nothing is asked: the head holds
            const double z = out_.places[0].leaving_before;
            if (std::isnan(z))
                return fail(name(out_.places[0].structure) + ": pin a level, the run has none to start from.");
            pins_.push_back({0, 0, z});
            pin_names_.push_back(name(out_.places[0].structure) + " leaving " + level(z) + " (as it is)");
            pin_place_.push_back(0);
        }
        return true;
    }

    void take(const Chain& chain) {
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            const ChainLevel& l = chain.levels[i];
            GradedPlace &up = out_.places[i], &down = out_.places[i + 1];
            up.leaving = pinned_or(l.up, i, 0);
            down.arriving = pinned_or(l.down, i, chain_[i].length);
            up.slope = (up.leaving - down.arriving) / chain_[i].length;
        }
    }
    /// A pin's level as it was given, any other rounded.
    [[nodiscard]] double pinned_or(double z, std::size_t pipe, double along) const {
        for (const ChainPin& p : pins_)
            if (p.pipe == pipe && p.along == along && std::abs(p.level - z) < 1e-9) return p.level;
        return to_mm(z);
    }

    void say(ElementRef element, std::string words, std::vector<std::size_t> pins) {
        GradeConflict c{element, std::move(words), {}};
        for (const std::size_t k : pins)
            if (k != no_pin && std::find(c.pins.begin(), c.pins.end(), pin_names_[k]) == c.pins.end())
                c.pins.push_back(pin_names_[k]);
        out_.conflicts.push_back(std::move(c));
    }
    void say_clashes(const Chain& chain) {
        for (const ChainClash& c : chain.clashes)
            say({Kind::Structure, out_.places[pin_place_[c.second]].structure.value},
                "every slope and fall between them is pinned, and they lead to " + level(c.reached) + ", " +
                    metres(std::abs(c.reached - pins_[c.second].level)) +
                    (c.reached > pins_[c.second].level ? " above" : " below") +
                    " the lower pin, which is not kept: free a slope",
                {c.first, c.second});
    }
    void say_slopes(const Chain& chain) {
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            const std::uint64_t id = pipes_[i]->id;
            const double s = out_.places[i].slope, slack = 0.0011 / chain_[i].length;
            const double least = limits_.limit(LimitKind::LeastSlope, id).value,
                         most = limits_.limit(LimitKind::MostSlope, id).value;
            std::string words = name(ask_.pipes[i]) + " gets a slope of " + units_.text(s, Quantity::Slope);
            if (s <= 0) words += ": it does not fall";
            else if (s < least - slack) words += ", at least " + units_.text(least, Quantity::Slope);
            else if (s > most + slack) words += ", at most " + units_.text(most, Quantity::Slope);
            else continue;
            say({Kind::Pipe, id}, words, {chain.levels[i].above, chain.levels[i].below});
        }
    }
    /// Cover, depth and rims at both ends of each pipe.
    void say_places(const Chain& chain) {
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            const Pipe& p = *pipes_[i];
            const double cover = limits_.limit(LimitKind::LeastCover, p.id).value;
            for (const bool end : {false, true}) {
                const GradedPlace& at = out_.places[i + end];
                const Structure& s = *project_.structures.find(at.structure.value);
                const double z = end ? at.arriving : at.leaving, top = z + height(section_of(p)) + p.wall;
                if (std::isnan(at.rim)) continue;
                const std::vector<std::size_t> pins{chain.levels[i].above, chain.levels[i].below};
                if (top > at.rim + agreed && s.kind != StructureKind::Outfall)
                    say({Kind::Pipe, p.id},
                        name(ask_.pipes[i]) + " lies " + metres(top - at.rim) + " above the rim of " +
                            name(at.structure),
                        pins);
                else if (s.kind != StructureKind::Outfall && at.rim - top < cover - agreed)
                    say({Kind::Pipe, p.id},
                        name(ask_.pipes[i]) + " has " + metres(at.rim - top) + " of cover at " + name(at.structure) +
                            ", at least " + metres(cover),
                        pins);
                const double deepest = limits_.limit(LimitKind::MostDepth, s.id).value;
                if (!end && at.rim - z > deepest + agreed)
                    say({Kind::Structure, s.id},
                        name(at.structure) + " is " + metres(at.rim - z) + " deep, at most " + metres(deepest), pins);
            }
        }
    }
    /// Pipes beside the run that arrive too low for the level that leaves.
    void say_branches() {
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            const GradedPlace& at = out_.places[i];
            const int node = network_.node_of(at.structure);
            if (node == no_node) continue;
            for (int in = nth(network_.nodes, node).first_in; in != no_link; in = nth(network_.links, in).next_in) {
                const Link& l = nth(network_.links, in);
                if (i > 0 && l.pipe == ask_.pipes[i - 1]) continue;
                if (std::isnan(l.invert_down) || l.invert_down >= at.leaving - agreed) continue;
                say({Kind::Pipe, l.pipe.value},
                    name(l.pipe) + " arrives at " + name(at.structure) + " at " + level(l.invert_down) + ", " +
                        metres(at.leaving - l.invert_down) + " too low for a start at " + level(at.leaving),
                    pins_at(i));
            }
        }
    }
    [[nodiscard]] std::vector<std::size_t> pins_at(std::size_t place) const {
        std::vector<std::size_t> near;
        for (std::size_t k = 0; k < pins_.size(); ++k)
            if (pin_place_[k] <= place) near = {k};
        for (std::size_t k = 0; k < pins_.size(); ++k)
            if (pin_place_[k] > place) {
                near.push_back(k);
                break;
            }
        return near;
    }

    void write() {
        Editing e(project_, pipes_.size() == 1 ? "Grade " + name(ask_.pipes[0])
                                               : "Grade " + name(out_.places.front().structure) + " to " +
                                                     name(out_.places.back().structure));
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            const GradedPlace &up = out_.places[i], &down = out_.places[i + 1];
            const auto put = [&](bool head, double now, double before, bool pinned) {
                if (std::abs(now - before) < 1e-9) return;
                e.set(Kind::Pipe, pipes_[i]->id, head == along_[i] ? "invert_from" : "invert_to", now,
                      pinned ? Origin::Typed : Origin::Proposed);
            };
            put(true, up.leaving, up.leaving_before, up.leaving_pinned);
            put(false, down.arriving, down.arriving_before, down.arriving_pinned);
            keep_tie(e, i, true);
            keep_tie(e, i, false);
        }
        out_.edit = e.take();
    }

    /// What an end of a pipe is tied to from now on.
    void keep_tie(Editing& e, std::size_t i, bool head) {
        const Pipe& p = *pipes_[i];
        const bool start = head == along_[i];
        const std::string& had = start ? p.tie_from : p.tie_to;
        const auto pinned = ends_.find({i, head});
        const Tie* to = pinned == ends_.end() ? nullptr : pinned->second;
        if (!to && !ask_.all_ties) return;
        const std::string words = to && to->to != Tie::To::Level ? tie_words(project_, *to) : std::string();
        if (words != had) e.set(Kind::Pipe, p.id, start ? "tie_from" : "tie_to", words);
    }

    const Project& project_;
    const RunAsk& ask_;
    const Ground& ground_;
    const Network& network_;
    UnitSet units_;
    LimitTable limits_;
    Graded out_;
    std::vector<const Pipe*> pipes_;
    std::vector<bool> along_;  ///< drawn the way its water runs
    std::vector<ChainPipe> chain_;
    std::vector<ChainPin> pins_;
    std::vector<std::string> pin_names_;
    std::vector<std::size_t> pin_place_;                       ///< place at or above the pin
    std::map<std::pair<std::size_t, bool>, const Tie*> ends_;  ///< pipe, and whether its upper end: what pins it
    StructureId below_;
    double before_end_ = not_given;
};

}  // namespace

Graded grade_run(const Project& project, const Network& network, const RunAsk& ask, const Ground& ground) {
    return Grading(project, network, ask, ground).run();
}

}  // namespace culvert
