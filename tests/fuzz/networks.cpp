// SPDX-License-Identifier: GPL-3.0-or-later
// Random networks by the thousand: culvert-networks [count] [first seed]. Each is solved and held against what must be
// true of any answer; the counters at the end say which ways through the kernels were taken.
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include "core/analysis/solver.h"
#include "core/base/contract.h"
#include "exchange/project_file.h"
#include "support/networks.h"

namespace {

using namespace culvert;

double head(double v) { return v * v / (2 * gravity); }

struct Counters {
    long pipes = 0, full = 0, partly = 0, free_surface = 0, fast = 0, jumps = 0, uniform = 0, entrance = 0,
         arriving = 0, adverse = 0, dry = 0, holes = 0, joints = 0, held = 0, bends = 0, boxes = 0, drowned_ends = 0;
};

class Soak {
  public:
    bool one(unsigned seed) {
        seed_ = seed;
        Project p = made(seed);
        const auto r = solve(p);
        for (const auto& e : r)
            if (!sound(p, *e)) return false;
        // Drawn the other way round, and in the other unit system, it is the same network.
        Project turned = p;
        std::mt19937 random(seed + 77);
        for (const Pipe& q : p.pipes) {
            if (random() % 2) continue;
            Pipe* t = turned.pipes.change(q.id);
            std::swap(t->from, t->to);
            std::swap(t->invert_from, t->invert_to);
            std::reverse(t->bends.begin(), t->bends.end());
        }
        if (!same(p, *r[0], *solve(turned)[0], 1e-9, "drawn the other way round")) return false;
        Project other = p;
        Settings* s = other.settings_rows.change(settings_id);
        s->system = s->system == UnitSystem::Si ? UnitSystem::Us : UnitSystem::Si;
        const ReadOutcome back = read_project(write_project(other));
        if (!back.ok) return fail("what was written in the other units does not read");
        return same(p, *r[0], *solve(back.project)[0], 1e-9, "written in the other units");
    }
    Counters counters;

  private:
    bool fail(const char* what) const {
        std::fprintf(stderr, "seed %u: %s\n", seed_, what);
        return false;
    }
    static Project made(unsigned seed) {
        std::mt19937 random(seed * 2654435761u + 1);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        Project p = culvert::testing::random_project(
            {.pipes = 3 + static_cast<int>(uniform(0, 50)), .seed = seed, .events = 2, .awkward = uniform(0, 1) < 0.9});
        Settings* s = p.settings_rows.change(settings_id);
        if (seed % 3 == 0) s->flooded_level = FloodedLevel::HeldAtRim;
        if (seed % 2 == 0) s->loss_by = LossBy::AccessHole;
        if (seed % 5 == 0) s->travel_velocity = VelocityFor::FullFlow;
        if (seed % 7 < 4) s->expansion_loss = uniform(0, 1), s->contraction_loss = uniform(0, 0.5);
        s->bend_loss = seed % 4 ? 0.0033 : 0;
        std::vector<std::uint64_t> ids;
        for (const Pipe& q : p.pipes) ids.push_back(q.id);
        for (const std::uint64_t id : ids) {
            Pipe* q = p.pipes.change(id);
            const Structure &a = *p.structures.find(q->from.value), &b = *p.structures.find(q->to.value);
            if (uniform(0, 1) < 0.2)
                q->bends = {{(a.x + b.x) / 2 + uniform(-15, 15), (a.y + b.y) / 2 + uniform(-15, 15)}};
            if (uniform(0, 1) < 0.05) q->barrels = 2;
        }
        return p;
    }

    bool sound(const Project& p, const EventResult& r) {
        const Network& net = *r.network;
        for (std::size_t i = 0; i < net.links.size(); ++i) {
            const Link& l = net.links[i];
            const LinkResult& f = r.links[i];
            if (!l.solvable) continue;
            ++counters.pipes;
            if (!std::isfinite(f.flow.flow) || f.flow.flow < 0) return fail("a flow is no number, or negative");
            const Node &from = net.nodes[static_cast<std::size_t>(l.from)],
                       &to = net.nodes[static_cast<std::size_t>(l.to)];
            const NodeLevel &up_node = r.nodes[static_cast<std::size_t>(l.from)].level,
                            &down_node = r.nodes[static_cast<std::size_t>(l.to)].level;
            if (!std::isfinite(f.level.head_up) || !std::isfinite(f.level.head_down) || !std::isfinite(up_node.level))
                return fail("a level is no number");
            if (f.flow.flow < 1e-9) {
                ++counters.dry;
                continue;
            }
            const double up = l.invert_up + f.level.head_up + head(f.level.velocity_up),
                         down = l.invert_down + f.level.head_down + head(f.level.velocity_down);
            if (!up_node.held && up_node.energy < up + f.level.bends - 1e-7)
                return fail("energy rises from a structure into its pipe");
            if (up < down - 1e-6) return fail("energy rises along a pipe");
            if (to.out != no_link && std::isfinite(down_node.energy) && down < down_node.energy - 1e-6) {
                std::fprintf(stderr,
                             "seed %u: energy rises by %.3g m from pipe %zu into a structure (kind %d, hole %d, held "
                             "%d, jump %.3g of %.3g, bend %.3g, loss %.2g, changes %.2g %.2g)\n",
                             seed_, down_node.energy - down, i, static_cast<int>(to.kind), to.access_hole,
                             down_node.held, f.level.jump, l.length, nth(r.links, to.out).level.bends, to.loss,
                             net.expansion, net.contraction);
                return false;
            }
            count(l, f, from, up_node);
        }
        // Continuity is that of C A and of known flow.
        for (std::size_t i = 0; i < net.nodes.size(); ++i) {
            const Node& n = net.nodes[i];
            double area = 0, known = n.known_flow;
            for (int c = n.cover_begin; c < n.cover_end; ++c) {
                const NetworkCover& cover = net.covers[static_cast<std::size_t>(c)];
                area += cover.area *
                        std::min(1.0, cover.coefficient * rain_of(*p.events.find(r.event.value)).frequency_factor);
            }
            for (int in = n.first_in; in != no_link; in = net.links[static_cast<std::size_t>(in)].next_in) {
                area += r.links[static_cast<std::size_t>(in)].flow.effective_area;
                known += r.links[static_cast<std::size_t>(in)].flow.known_flow;
            }
            if (n.out == no_link) continue;
            const LinkFlow& out = r.links[static_cast<std::size_t>(n.out)].flow;
            if (std::abs(out.effective_area - area) > 1e-9 * std::max(1.0, area) ||
                std::abs(out.known_flow - known) > 1e-9 * std::max(1.0, known))
                return fail("what leaves a structure is not what reaches it");
        }
        return true;
    }
    void count(const Link& l, const LinkResult& f, const Node& from, const NodeLevel& node) {
        Counters& c = counters;
        c.full += f.level.full_length >= l.length * (1 - 1e-9);
        c.partly += f.level.full_length > 0 && f.level.full_length < l.length * (1 - 1e-9);
        c.free_surface += f.level.full_length <= 0;
        c.fast += f.level.jump >= l.length;
        c.jumps += f.level.jump > 0 && f.level.jump < l.length;
        c.uniform += f.level.control == Control::Uniform;
        c.entrance += f.level.control == Control::Entrance;
        c.arriving += f.level.control == Control::Arriving;
        c.adverse += l.slope < 0;
        c.holes += from.access_hole;
        c.joints += from.kind == StructureKind::Joint;
        c.held += node.held;
        c.bends += f.level.bends > 0;
        c.boxes += std::holds_alternative<Box>(l.section);
        c.drowned_ends += !f.level.free_end;
    }
    bool same(const Project& p, const EventResult& a, const EventResult& b, double within, const char* what) const {
        for (const Structure& s : p.structures) {
            const int i = a.network->node_of(StructureId{s.id}), k = b.network->node_of(StructureId{s.id});
            if (i == no_node && k == no_node) continue;
            if (i == no_node || k == no_node) return fail(what);
            const double x = a.nodes[static_cast<std::size_t>(i)].level.level,
                         y = b.nodes[static_cast<std::size_t>(k)].level.level;
            if (std::isnan(x) && std::isnan(y)) continue;
            if (!(std::abs(x - y) <= within)) {
                std::fprintf(stderr, "seed %u: %s, %s stands %.3g m apart\n", seed_, what, s.name.c_str(), x - y);
                return false;
            }
        }
        return true;
    }
    unsigned seed_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
    const long count = argc > 1 ? std::atol(argv[1]) : 1000, first = argc > 2 ? std::atol(argv[2]) : 1;
    Soak soak;
    long bad = 0;
    const auto start = std::chrono::steady_clock::now();
    for (long i = 0; i < count; ++i) bad += !soak.one(static_cast<unsigned>(first + i));
    const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    const Counters& c = soak.counters;
    std::printf("%ld networks from seed %ld, %ld pipes and events, %.1f s: %ld at fault\n", count, first, c.pipes, took,
                bad);
    for (const auto& [name, n] : {std::pair{"full throughout", c.full},
                                  {"full in part", c.partly},
                                  {"free surface", c.free_surface},
                                  {"fast throughout", c.fast},
                                  {"jumps", c.jumps},
                                  {"uniform above", c.uniform},
                                  {"set at the entrance", c.entrance},
                                  {"fast water arrives", c.arriving},
                                  {"adverse", c.adverse},
                                  {"dry", c.dry},
                                  {"from an access hole", c.holes},
                                  {"from an inline joint", c.joints},
                                  {"held at the rim", c.held},
                                  {"bends that lose", c.bends},
                                  {"boxes", c.boxes},
                                  {"ends under water", c.drowned_ends}})
        std::printf("  %-22s %ld\n", name, n);
    return bad ? 1 : 0;
}
