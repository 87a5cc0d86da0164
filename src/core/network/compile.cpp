// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <queue>

#include "core/base/contract.h"
#include "core/base/words.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/catchment_time.h"
#include "core/network/network.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

int find_sorted(const std::vector<std::pair<std::uint64_t, int>>& list, std::uint64_t id) {
    const auto at = std::lower_bound(list.begin(), list.end(), std::pair{id, -1});
    return at != list.end() && at->first == id ? at->second : no_node;
}

/// One project on its way to a network. Rows are addressed by their position in the tables.
class Compiler {
  public:
    explicit Compiler(const Project& project) : project_(project), units_(units_of(project)) {}

    Network run() {
        take_settings();
        gather();
        direct();
        number();
        drain_catchments();
        place_inlets(project_, net_);
        place_outlets(project_, net_);
        place_storage(project_, net_);
        return std::move(net_);
    }

    using ChangedPipes = std::vector<std::pair<const Pipe*, const Pipe*>>;
    using ChangedStructures = std::vector<std::pair<const Structure*, const Structure*>>;
    /// A network with the rows put in that changed; none where one of them is more than values.
    static bool has_pond(const Network& network, int node) {
        return network.through_time && nth(network.through_time->pond_of, node) >= 0;
    }
    std::optional<Network> patch(const Network& old, const ChangedPipes& pipes, const ChangedStructures& structures) {
        take_settings();
        const auto found_fault = [&](Kind kind, std::uint64_t id) {
            return std::any_of(old.faults.begin(), old.faults.end(), [&](const Fault& f) {
                return f.element == ElementRef{kind, id};
            });
        };
        Network out = old;
        for (const auto& [now, before] : pipes) {
            const int at = old.link_of(PipeId{now->id});
            if (at == no_link || found_fault(Kind::Pipe, now->id)) return {};
            if (now->from != before->from || now->to != before->to || now->status != before->status) return {};
            const Link& l = nth(old.links, at);
            const Node &from = nth(old.nodes, l.from), &to = nth(old.nodes, l.to);
            if (has_pond(old, l.from)) return {};  // it is one of its ways out
            // In a tree there is one way only; beside rings the lowest invert decides which is the main one.
            if (now->bends != before->bends) return {};  // it meets the next at another angle
            const bool levels = now->invert_from == before->invert_from && now->invert_to == before->invert_to;
            if (!levels && nth(old.components, from.component).further > 0) return {};
            const Structure *a = project_.structures.find(from.structure.value),
                            *b = project_.structures.find(to.structure.value);
            if (!a || !b) return {};
            if (!levels && (a->kind == StructureKind::Pond || b->kind == StructureKind::Pond))
                return {};  // whether pipes end in it is told by their levels
            const int next_in = l.next_in;
            const double turn = l.turn;
            nth(out.links, at) = link(*a, *b, *now, l.from, l.to, l.main);
            nth(out.links, at).next_in = next_in;
            nth(out.links, at).turn = turn;
        }
        for (const auto& [now, before] : structures) {
            const int at = old.node_of(StructureId{now->id});
            if (at == no_node || found_fault(Kind::Structure, now->id) || has_pond(old, at)) return {};
            if (now->kind != before->kind || now->type != before->type || now->street != before->street ||
                now->status != before->status || now->loss_by != before->loss_by || now->x != before->x ||
                now->y != before->y)
                return {};
            if (now->name != before->name && !old.faults.empty()) return {};  // they name structures
            if (now->tailwater == Tailwater::Rating || before->tailwater == Tailwater::Rating ||
                nth(old.nodes, at).channel != none_of_list || !std::isnan(now->channel_width))
                return {};  // lists beside the nodes
            Node fresh = node(*now);
            const Node& was = nth(old.nodes, at);
            fresh.out = was.out;
            if (was.out == no_link) fresh.kind = was.kind;  // a pond may end a network
            fresh.down = was.down;
            fresh.link_end = was.link_end;
            fresh.inflows = was.inflows;
            fresh.first_in = was.first_in;
            fresh.inlet = was.inlet;
            fresh.component = was.component;
            fresh.local_time = was.local_time;
            fresh.cover_begin = was.cover_begin;
            fresh.cover_end = was.cover_end;
            nth(out.nodes, at) = fresh;
            if (!again(old, *now, *before, fresh, out)) return {};
        }
        if (!net_.faults.empty()) return {};
        return out;
    }

  private:
    void take_settings() {
        settings_ = project_.settings();
        for (const Field<Settings>& f :
             fields_of<Settings>())  // a value out of range is found fault with, and not used
            if (const auto* m = std::get_if<double Settings::*>(&f.member);
                m && (std::isnan(settings_.*(*m)) || !in_range(f, settings_.*(*m))))
                settings_.*(*m) = Settings{}.*(*m);
        const Settings& s = settings_;
        net_.hold_flow = s.hold_flow;
        net_.full_travel_velocity = s.travel_velocity == VelocityFor::FullFlow;
        net_.hold_at_rim = s.flooded_level == FloodedLevel::HeldAtRim;
        net_.peak_capacity = s.capacity_basis == CapacityBasis::Peak;
        net_.least_time = s.least_time;
        net_.uplift = s.uplift;
        net_.edition = s.edition;
        net_.limited = s.inlet_flow == InletFlow::Limited;
        net_.gutter_time = s.gutter_time;
        net_.partial_area = s.partial_area;
        net_.expansion = s.expansion_loss;
        net_.contraction = s.contraction_loss;
    }

    struct End {
        int pipe;
        int other;
    };
    /// A pipe on its way from a structure to another.
    struct Way {
        int pipe, from, to;
    };

    void fault(Severity severity, Kind kind, std::uint64_t id, std::string field, std::string title, std::string detail,
               std::string remedy) {
        net_.faults.push_back(
            {severity, {kind, id}, std::move(field), std::move(title), std::move(detail), std::move(remedy)});
    }
    [[nodiscard]] std::string name(int structure) const { return nth(structures_, structure)->name; }

    void gather() {
        for (const Structure& s : project_.structures) {
            index_.emplace_back(s.id, static_cast<int>(structures_.size()));
            structures_.push_back(&s);
        }
        ends_.resize(structures_.size());
        for (const Pipe& p : project_.pipes) {
            if (p.status == Status::Abandoned) continue;
            const int a = find_sorted(index_, p.from.value), b = find_sorted(index_, p.to.value);
            const std::string label = pipe_name(project_, p);
            if (a < 0 || b < 0) {
                fault(Severity::Error, Kind::Pipe, p.id, a < 0 ? "from" : "to", "end missing",
                      "Pipe " + label + " has no structure at its " + (a < 0 ? "start" : "end") + ".",
                      "Draw it to a structure, or delete it.");
                net_.idle.push_back({p.id});
                continue;
            }
            if (a == b) {
                fault(Severity::Error, Kind::Pipe, p.id, "to", "pipe to itself",
                      "Pipe " + label + " starts and ends at " + name(a) + ".", "Give it another end, or delete it.");
                net_.idle.push_back({p.id});
                continue;
            }
            const int index = static_cast<int>(pipes_.size());
            pipes_.push_back(&p);
            nth(ends_, a).push_back({index, b});
            nth(ends_, b).push_back({index, a});
        }
        way_.assign(structures_.size(), -1);
        down_.assign(structures_.size(), -1);
        reached_.assign(structures_.size(), false);
        joined_.resize(structures_.size());
        for (std::size_t i = 0; i < joined_.size(); ++i) joined_[i] = static_cast<int>(i);
    }

    [[nodiscard]] double invert_at(int pipe, int structure) const {
        const Pipe& p = *nth(pipes_, pipe);
        return p.from.value == nth(structures_, structure)->id ? p.invert_from : p.invert_to;
    }

    /// A pond with outlets that all its pipes fall to: they end there, though a way to an outfall may leave from above
    /// it.
    [[nodiscard]] bool ends_in_pond(int structure) const {
        const Structure& s = *nth(structures_, structure);
        const auto& pipes = nth(ends_, structure);
        return s.kind == StructureKind::Pond && !pipes.empty() &&
               std::all_of(pipes.begin(), pipes.end(),
                           [&](const End& e) {
                               return nth(structures_, e.other)->kind != StructureKind::Outfall &&
                                      invert_at(e.pipe, structure) < invert_at(e.pipe, e.other);
                           }) &&
               std::any_of(project_.outlets.begin(), project_.outlets.end(),
                           [&](const PondOutlet& o) { return o.structure.value == s.id; });
    }

    /// Grows the forest from the outfalls, the lowest invert first, so that a structure with a choice uses its lowest
    /// way.
    void direct() {
        struct Step {
            double level;
            std::uint64_t id;
            int pipe, from, to;
            bool operator>(const Step& o) const { return std::tie(level, id) > std::tie(o.level, o.id); }
        };
        std::priority_queue<Step, std::vector<Step>, std::greater<>> open;
        const auto offer = [&](int structure) {
            for (const End& e : nth(ends_, structure))
                if (!nth(reached_, e.other)) {
                    const double level = invert_at(e.pipe, e.other);
                    open.push({std::isnan(level) ? 1e9 : level, nth(pipes_, e.pipe)->id, e.pipe, e.other, structure});
                }
        };
        std::vector<char> used(pipes_.size(), 0);
        for (std::size_t i = 0; i < structures_.size(); ++i)
            if (structures_[i]->kind == StructureKind::Outfall || ends_in_pond(static_cast<int>(i))) reached_[i] = true;
        for (std::size_t i = 0; i < structures_.size(); ++i)
            if (reached_[i]) offer(static_cast<int>(i));
        const auto grow = [&] {
            while (!open.empty()) {
                const Step s = open.top();
                open.pop();
                if (nth(reached_, s.from)) continue;
                nth(reached_, s.from) = true;
                nth(way_, s.from) = s.pipe;
                nth(down_, s.from) = s.to;
                nth(used, s.pipe) = 1;
                offer(s.from);
            }
        };
        grow();
        // Ponds from which no pipe leads on, the lowest first: what enters them ends there, and leaves by their
        // outlets.
        std::vector<std::tuple<double, std::uint64_t, int>> ponds;
        for (std::size_t i = 0; i < structures_.size(); ++i)
            if (structures_[i]->kind == StructureKind::Pond && !reached_[i])
                ponds.emplace_back(std::isnan(structures_[i]->rim) ? 1e9 : structures_[i]->rim, structures_[i]->id,
                                   static_cast<int>(i));
        std::sort(ponds.begin(), ponds.end());
        for (const auto& [rim, id, i] : ponds) {
            if (nth(reached_, i)) continue;
            nth(reached_, i) = true;
            offer(i);
            grow();
        }
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            if (used[i]) continue;
            const Pipe& p = *pipes_[i];
            net_.idle.push_back({p.id});
            const int a = find_sorted(index_, p.from.value), b = find_sorted(index_, p.to.value);
            if (!nth(reached_, a)) continue;  // no way out: named at the structures
            const std::string label = pipe_name(project_, p);
            if (nth(structures_, a)->kind == StructureKind::Outfall &&
                nth(structures_, b)->kind == StructureKind::Outfall) {
                fault(Severity::Error, Kind::Pipe, p.id, "", "joins two outfalls",
                      "Pipe " + label + " joins the outfalls " + name(a) + " and " + name(b) + ": no water enters it.",
                      "Make one of them a manhole.");
                continue;
            }
            // Both ends have a way already: a further one, listed from the end it leaves highest.
            net_.idle.pop_back();
            const bool a_ends = down_[static_cast<std::size_t>(a)] < 0, b_ends = down_[static_cast<std::size_t>(b)] < 0;
            const bool from_a = b_ends || (!a_ends && (std::isnan(p.invert_from) || !(p.invert_from < p.invert_to)));
            const int from = from_a ? a : b, to = from_a ? b : a;
            further_.push_back({static_cast<int>(i), from, to});
            join(root(a), root(b));
            const bool same_root = root(a) == root(b);
            fault(Severity::Note, Kind::Pipe, p.id, "", same_root ? "closes a ring" : "two ways out",
                  "Pipe " + label + (same_root ? " closes a ring" : " leads to a second outfall") + ": at " +
                      name(from) + " the water divides so that one level stands at each structure.",
                  "Nothing needs doing; abandon it if it shall carry nothing.");
        }
        std::vector<char> said(structures_.size(), 0);
        for (std::size_t i = 0; i < structures_.size(); ++i) {
            if (reached_[i] || said[i]) continue;
            std::vector<std::size_t> group{i};
            said[i] = 1;
            for (std::size_t g = 0; g < group.size(); ++g)
                for (const End& e : ends_[group[g]])
                    if (!nth(said, e.other)) {
                        nth(said, e.other) = 1;
                        group.push_back(static_cast<std::size_t>(e.other));
                    }
            std::size_t lowest = i;
            for (const std::size_t g : group)
                if (structures_[g]->rim < structures_[lowest]->rim) lowest = g;
            std::string names;
            for (std::size_t g = 0; g < group.size() && g < 6; ++g)
                names += (g ? ", " : "") + structures_[group[g]]->name;
            if (group.size() > 6) names += " and " + std::to_string(group.size() - 6) + " more";
            if (group.size() == 1)
                fault(Severity::Error, Kind::Structure, structures_[i]->id, "", "not connected",
                      "Structure " + names + " has no pipe.", "Draw a pipe from it towards an outfall, or delete it.");
            else
                fault(Severity::Error, Kind::Structure, structures_[lowest]->id, "kind", "no way out",
                      "The network of " + names + " has no outfall: its grade lines are not known.",
                      "Make " + structures_[lowest]->name +
                          ", its lowest structure, an outfall, or draw a pipe from there to one.");
        }
    }
    /// Groups of outfalls whose trees are joined by further links.
    [[nodiscard]] int group(int r) const {
        while (joined_[static_cast<std::size_t>(r)] != r) r = joined_[static_cast<std::size_t>(r)];
        return r;
    }
    void join(int r, int q) {
        r = group(r), q = group(q);
        joined_[static_cast<std::size_t>(std::max(r, q))] = std::min(r, q);
    }
    [[nodiscard]] int root(int s) const {
        while (nth(down_, s) >= 0) s = nth(down_, s);
        return s;
    }

    /// Numbers nodes in post-order from each outfall: a structure after all that flows to it, neighbours close in
    /// memory; outfalls whose trees are joined one after another.
    void number() {
        std::vector<std::vector<int>> up(structures_.size());
        for (std::size_t i = 0; i < structures_.size(); ++i)
            if (down_[i] >= 0) up[static_cast<std::size_t>(down_[i])].push_back(static_cast<int>(i));
        std::vector<int> node_of(structures_.size(), no_node);
        std::vector<int> order;
        std::vector<std::pair<int, std::size_t>> stack;
        std::vector<std::vector<int>> groups(structures_.size());
        for (std::size_t i = 0; i < structures_.size(); ++i)
            if (reached_[i] && down_[i] < 0) nth(groups, group(static_cast<int>(i))).push_back(static_cast<int>(i));
        for (const auto& outfalls : groups) {
            if (outfalls.empty()) continue;
            net_.components.push_back({static_cast<int>(order.size()), 0, 0, 0, 0});
            for (const int outfall : outfalls) {
                stack.emplace_back(outfall, 0);
                while (!stack.empty()) {
                    auto& [s, next] = stack.back();
                    const auto& children = nth(up, s);
                    if (next < children.size()) {
                        const int child = children[next++];
                        stack.emplace_back(child, 0);
                    } else {
                        nth(node_of, s) = static_cast<int>(order.size());
                        order.push_back(s);
                        stack.pop_back();
                    }
                }
            }
            net_.components.back().node_end = static_cast<int>(order.size());
        }
        std::vector<std::vector<Way>> ways(structures_.size());
        for (const Way& w : further_) nth(ways, w.from).push_back(w);
        net_.nodes.reserve(order.size());
        net_.links.reserve(order.size() + further_.size());
        for (std::size_t c = 0; c < net_.components.size(); ++c) {
            Component& component = net_.components[c];
            component.link_begin = static_cast<int>(net_.links.size());
            for (int i = component.node_begin; i < component.node_end; ++i) {
                const int s = nth(order, i);
                Node n = node(*nth(structures_, s));
                n.component = static_cast<int>(c);
                if (nth(down_, s) < 0) n.kind = StructureKind::Outfall;
                if (nth(down_, s) >= 0) {
                    n.out = static_cast<int>(net_.links.size());
                    n.down = nth(node_of, nth(down_, s));
                    const auto add = [&](const Way& w, bool main) {
                        net_.links.push_back(link(*nth(structures_, w.from), *nth(structures_, w.to),
                                                  *nth(pipes_, w.pipe), nth(node_of, w.from), nth(node_of, w.to),
                                                  main));
                    };
                    add({nth(way_, s), s, nth(down_, s)}, true);
                    for (const Way& w : nth(ways, s)) add(w, false);
                    component.further += static_cast<int>(nth(ways, s).size());
                }
                n.link_end = static_cast<int>(net_.links.size());
                net_.nodes.push_back(n);
            }
            component.link_end = static_cast<int>(net_.links.size());
        }
        for (std::size_t i = net_.links.size(); i-- > 0;) {
            Link& l = net_.links[i];
            if (!l.main) continue;
            Node& to = nth(net_.nodes, l.to);
            ++to.inflows;
            l.next_in = to.first_in;
            to.first_in = static_cast<int>(i);
        }
        for (std::size_t i = 0; i < net_.nodes.size(); ++i)
            net_.by_structure.emplace_back(net_.nodes[i].structure.value, static_cast<int>(i));
        for (std::size_t i = 0; i < net_.links.size(); ++i)
            net_.by_pipe.emplace_back(net_.links[i].pipe.value, static_cast<int>(i));
        std::sort(net_.by_structure.begin(), net_.by_structure.end());
        std::sort(net_.by_pipe.begin(), net_.by_pipe.end());
    }

    Node node(const Structure& s) {
        const Settings& set = settings_;
        Node n;
        n.structure = {s.id};
        n.kind = s.kind;  // of a pond: as it stands in the network, an end of it or a structure of it
        if (s.kind == StructureKind::Pond) n.kind = StructureKind::Manhole;
        n.rim = usable(s, &Structure::rim, not_given);
        n.sump = usable(s, &Structure::sump, not_given);
        if (std::isnan(n.sump)) {
            const StructureType* type = s.type.empty() ? nullptr : type_of(project_, s);
            n.sump = type ? type->sump : 0;
        }
        n.known_flow = std::isnan(s.known_flow) ? 0 : usable(s, &Structure::known_flow, 0);
        n.tailwater = s.tailwater;
        n.tailwater_level = usable(s, &Structure::tailwater_level, not_given);
        const LossBy by = s.loss_by == LossBy::Project ? set.loss_by : s.loss_by;
        n.access_hole =
            by == LossBy::AccessHole && (s.kind == StructureKind::Manhole || s.kind == StructureKind::Inlet);
        if (n.access_hole)
            if (const StructureType* type = type_of(project_, s)) n.benching = type->benching;
        const double by_kind[] = {set.loss_inlet, set.loss_manhole, 0, set.loss_joint, set.loss_inlet};
        const double loss = usable(s, &Structure::loss, not_given);
        n.loss = std::isnan(loss) ? nth(by_kind, s.kind) : loss;
        if (n.kind == StructureKind::Outfall && n.tailwater == Tailwater::Level && std::isnan(n.tailwater_level)) {
            fault(Severity::Error, Kind::Structure, s.id, "tailwater_level", "tailwater missing",
                  "Outfall " + s.name + " meets a water level, but none is given: it is solved as a free outfall.",
                  "Give the tailwater level, or make the tailwater free.");
            n.tailwater = Tailwater::Free;
        }
        return n;
    }

    Link link(const Structure& s, const Structure& end, const Pipe& p, int from, int to, bool main) {
        const auto label = [&] { return pipe_name(project_, p); };  // most pipes have no fault
        Link n;
        n.pipe = {p.id};
        n.main = main;
        n.from = from;
        n.to = to;
        const bool along = p.from.value == s.id;
        n.invert_up = along ? p.invert_from : p.invert_to;
        n.invert_down = along ? p.invert_to : p.invert_from;
        n.roughness = p.roughness;
        n.wall = p.wall;
        n.length = length_of(project_, p);
        n.barrels = std::isnan(p.barrels) ? 1 : std::max(1.0, std::floor(usable(p, &Pipe::barrels, 1)));
        n.section = section_of(p);
        if (!p.bends.empty() && settings_.bend_loss > 0) n.bend = settings_.bend_loss * turned(project_, p);
        const auto bad = [&](const char* field, const std::string& what, const std::string& remedy) {
            fault(Severity::Error, Kind::Pipe, p.id, field, "cannot be solved",
                  "Pipe " + label() + ": " + what + ". Levels upstream of it are not known.", remedy);
            n.solvable = false;
        };
        // No kernel sees a number outside its field's range.
        for (const Field<Pipe>& f : fields_of<Pipe>())
            if (const auto* m = std::get_if<double Pipe::*>(&f.member); m && !in_range(f, p.*(*m))) {
                bad(f.key.data(), "its " + within_sentence(f.label) + " " + range_fault(f, p.*(*m), units_),
                    "Correct it in the card.");
            }
        if (const std::string fault = section_fault(p); !fault.empty())
            bad(p.shape == Shape::Custom ? "section_across" : "width", "its section " + fault,
                "Correct its dimensions in the card.");
        if (std::isnan(p.size)) bad("size", "its size is not given", "Give its size.");
        if (std::isnan(p.roughness))
            bad("roughness", "its Manning n is not given", "Give its Manning n, for example 0.013.");
        if (std::isnan(n.length))
            bad("length", "its length is not known: " + (placed(s) ? end.name : s.name) + " has no place in plan",
                "Give the place, or enter the length.");
        else if (n.length <= 1e-3)
            bad("length",
                "its length is " + units_.text(n.length, Quantity::Length) +
                    (std::isnan(p.length) ? ": " + s.name + " and " + end.name + " stand at one point" : ""),
                "Move one of its ends, or enter its length.");
        if (std::isnan(p.invert_from)) bad("invert_from", "its invert at the start is not given", "Give the invert.");
        if (std::isnan(p.invert_to)) bad("invert_to", "its invert at the end is not given", "Give the invert.");
        if (!n.solvable) {
            n.slope = n.capacity = not_given;
            return n;
        }
        n.slope = (n.invert_up - n.invert_down) / n.length;
        n.capacity = n.barrels * full_capacity(n.section, n.roughness, n.slope) *
                     (net_.peak_capacity ? peak_ratio(n.section) : 1);
        return n;
    }

    void drain_catchments() {
        struct Part {
            double area, coefficient, time;
        };
        std::vector<std::pair<std::uint64_t, Part>> by_catchment;
        for (const LandCover& l : project_.land_covers) {
            if (!(usable(l, &LandCover::area, 0) > 0) || !(usable(l, &LandCover::coefficient, -1) >= 0)) continue;
            by_catchment.emplace_back(l.catchment.value,
                                      Part{l.area, l.coefficient, usable(l, &LandCover::time, not_given)});
        }
        std::stable_sort(by_catchment.begin(), by_catchment.end(), [](auto& a, auto& b) { return a.first < b.first; });
        std::vector<std::pair<int, Part>> parts;
        const IdfCurve rain = rain_of_times(project_);
        for (const Catchment& c : project_.catchments) {
            const StructureId target = target_of(project_, c);
            if (!target) {
                fault(Severity::Warning, Kind::Catchment, c.id, "structure", "drains nowhere",
                      "Catchment " + c.name + " drains to no structure: its water is not counted.",
                      "Choose the structure it drains to.");
                continue;
            }
            const int n = net_.node_of(target);
            if (n == no_node) continue;
            Node& node = nth(net_.nodes, n);
            const ConcentrationTime found = concentration_time(project_, c, rain);
            if (!found.fault.empty())
                fault(Severity::Error, Kind::Catchment, c.id, c.time_by == TimeBy::Parts ? "path_parts" : "path_length",
                      "no time of concentration",
                      "Catchment " + c.name + ": " + found.fault + ". The least time is taken.",
                      "Complete its flow path, or enter its time.");
            const double whole = std::isnan(found.time) ? 0 : found.time;
            const auto timed = [&](Part p) {
                p.time = std::max(std::isnan(p.time) ? whole : p.time, net_.least_time);
                // Ground that yields no runoff sets no time.
                if (p.coefficient > 0) node.local_time = std::max(node.local_time, p.time);
                parts.emplace_back(n, p);
            };
            auto cover = std::lower_bound(by_catchment.begin(), by_catchment.end(), c.id,
                                          [](auto& a, std::uint64_t id) { return a.first < id; });
            const bool own_covers = cover != by_catchment.end() && cover->first == c.id;
            for (; cover != by_catchment.end() && cover->first == c.id; ++cover) timed(cover->second);
            if (!own_covers && usable(c, &Catchment::area, 0) > 0 && usable(c, &Catchment::coefficient, -1) >= 0)
                timed({c.area, c.coefficient, not_given});
        }
        std::stable_sort(parts.begin(), parts.end(), [](auto& a, auto& b) { return a.first < b.first; });
        std::size_t at = 0;
        for (std::size_t n = 0; n < net_.nodes.size(); ++n) {
            net_.nodes[n].cover_begin = static_cast<int>(at);
            for (; at < parts.size() && parts[at].first == static_cast<int>(n); ++at)
                net_.covers.push_back({parts[at].second.area, parts[at].second.coefficient, parts[at].second.time});
            net_.nodes[n].cover_end = static_cast<int>(at);
        }
    }

    /// The inlet of a changed structure as it is now. False where more than its own values change.
    bool again(const Network& old, const Structure& now, const Structure& before, const Node& fresh,
               Network& out) const {
        if (now.rim != before.rim && std::any_of(old.inlets.begin(), old.inlets.end(), [](const StreetInlet& in) {
                return in.grade_from == GradeFrom::Rims;
            }))
            return false;
        if (now.kind != StructureKind::Inlet) return true;
        std::string why;
        auto in = street_inlet(project_, now, path_of(now.id), &why);
        if (in.has_value() != (fresh.inlet != no_inlet) || (!in && !why.empty())) return false;
        if (!in) return true;
        StreetInlet& place = nth(out.inlets, fresh.inlet);
        in->node = place.node;
        in->end = place.end;
        in->to = place.to;
        in->path_length = place.path_length;
        place = *std::move(in);
        return true;
    }
    [[nodiscard]] const StreetPath* path_of(std::uint64_t structure) const {
        for (const StreetPath& p : project_.street_paths)
            if (p.from.value == structure) return &p;
        return nullptr;
    }

    const Project& project_;
    UnitSet units_;
    Settings settings_;
    Network net_;
    std::vector<const Structure*> structures_;
    std::vector<const Pipe*> pipes_;
    std::vector<std::pair<std::uint64_t, int>> index_;
    std::vector<std::vector<End>> ends_;
    std::vector<int> way_, down_;  ///< per structure: the pipe that takes its water, and where to
    std::vector<char> reached_;
    std::vector<Way> further_;
    std::vector<int> joined_;  ///< per structure that is an outfall: another of its group, or itself
};

}  // namespace

int Network::node_of(StructureId id) const { return find_sorted(by_structure, id.value); }
int Network::link_of(PipeId id) const { return find_sorted(by_pipe, id.value); }
int Network::node_of(ElementRef element) const {
    if (element.kind == Kind::Structure) return node_of(StructureId{element.id});
    const int link = element.kind == Kind::Pipe ? link_of(PipeId{element.id}) : no_link;
    return link == no_link ? no_node : nth(links, link).from;
}

Network compile(const Project& project) { return Compiler(project).run(); }

std::optional<Network> recompile(const Project& before, const Network& network, const Project& now) {
    constexpr std::size_t most = 64;
    if (!before.ponds.same(now.ponds) || !before.outlets.same(now.outlets) || !before.releases.same(now.releases))
        return {};
    if (!before.settings_rows.same(now.settings_rows) || !before.catchments.same(now.catchments) ||
        !before.land_covers.same(now.land_covers) || !before.events.same(now.events) ||
        !before.structure_types.same(now.structure_types) || !before.sizes.same(now.sizes) ||
        !before.streets.same(now.streets) || !before.street_sections.same(now.street_sections) ||
        !before.street_paths.same(now.street_paths) || !before.outfall_levels.same(now.outfall_levels))
        return {};
    const auto pipes = now.pipes.changed_since(before.pipes, most);
    const auto structures = now.structures.changed_since(before.structures, most);
    if (!pipes || !structures) return {};
    return Compiler(now).patch(network, *pipes, *structures);
}

}  // namespace culvert
