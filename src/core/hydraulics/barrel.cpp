// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/barrel.h"
#include "core/base/contract.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/hydraulics/panel.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();
constexpr double uniform_within = 1e-4;  ///< m; nearer than this to normal depth the flow counts as uniform

/// A curve as it was marched, panel by panel: a search asks it for many depths and evaluates little anew.
struct Trace {
    static constexpr int most = 40;
    struct Piece {
        double x;  ///< distance at its beginning
        Panel panel;
    };
    std::array<Piece, most> pieces;
    int count = 0;
    bool logarithmic = false;  ///< the parameter is ln of what is left of the way to normal depth
    double normal = 0, gap = 0;
    /// Parameter of the shape for one of the trace.
    [[nodiscard]] double place(double at) const { return logarithmic ? normal + gap * std::exp(at) : at; }
    void add(double x, const Panel& panel) {
        if (count < most) nth(pieces, count++) = {x, panel};
    }
    /// The piece a distance lies in.
    [[nodiscard]] const Piece& piece(double distance) const {
        int i = 0;
        while (i + 1 < count && nth(pieces, i + 1).x < distance) ++i;
        return nth(pieces, i);
    }
    [[nodiscard]] double end() const {
        return count ? nth(pieces, count - 1).x + nth(pieces, count - 1).panel.total() : 0;
    }
};

struct Marched {
    double depth;     ///< where the march ended
    double distance;  ///< how far it came; less than asked where it met its target
};

/// Integrates from parameter s0 towards s1 until `length` is covered. `sign` is +1 downstream, -1 upstream.
template <class Shape>
class March {
  public:
    March(const Shape& shape, const Barrel& barrel, double sign, double least_friction, Trace* trace = nullptr)
        : trace_(trace),
          shape_(shape),
          slope_(barrel.slope),
          qn2_(barrel.flow * barrel.flow * barrel.n * barrel.n),
          q2g_(barrel.flow * barrel.flow / gravity),
          sign_(sign),
          least_friction_(least_friction) {}

    /// dx/ds
    [[nodiscard]] double rate(double s) const {
        Wetted w{};
        double dy_ds = 0;
        shape_.at(s, w, dy_ds);
        const double inverse = 1 / w.area, pr = w.perimeter * inverse, inverse2 = inverse * inverse;
        // R^(4/3) by logarithms: a cube root of the library costs half as much again.
        const double friction = std::max(qn2_ * inverse2 * std::exp(4.0 / 3 * std::log(pr)), least_friction_);
        const double froude2 = q2g_ * w.top * inverse2 * inverse;
        return sign_ * (1 - froude2) / (slope_ - friction) * dy_ds;
    }

    /// Depth at a distance along a curve that this march has traced, by its polynomials.
    [[nodiscard]] double near(const Trace& trace, double distance) const {
        const Trace::Piece& piece = trace.piece(distance);
        return shape_.depth(trace.place(piece.panel.where(distance - piece.x)));
    }
    /// The same, integrated where a polynomial may be off by more than a tenth of a millimetre.
    [[nodiscard]] double along(const Trace& trace, double distance) const {
        const Trace::Piece& piece = trace.piece(distance);
        const double target = distance - piece.x, guess = piece.panel.where(target);
        if (piece.panel.inside() < 1e-4) return shape_.depth(trace.place(guess));
        const auto f = [this, &trace](double u) {
            const double s = trace.place(u);
            return trace.logarithmic ? rate(s) * (s - trace.normal) : rate(s);
        };
        return shape_.depth(trace.place(within(f, piece.panel, target, guess)));
    }

    /// Towards a depth that is met at a finite distance. The curve bends over distances of the depth itself, however
    /// small that is beside the whole way (a trickle in a large box), so no panel more than doubles or halves it.
    [[nodiscard]] Marched to(double s0, double s1, double length) const {
        const auto f = [this](double u) { return rate(u); };
        const auto widest = [](double u) { return 0.75 * u; };
        return run(
            f, s0, s1, s1 - s0, length, [this](double u) { return shape_.depth(u); }, widest);
    }

    /// Towards normal depth, which is met at infinity: u = ln of what is left of the way in s.
    [[nodiscard]] Marched towards(double s0, double normal, double length) const {
        const double gap = s0 - normal;
        if (trace_) {
            trace_->logarithmic = true;
            trace_->normal = normal;
            trace_->gap = gap;
        }
        const auto place = [normal, gap](double u) { return normal + gap * std::exp(u); };
        const auto f = [this, place, normal](double u) {
            const double s = place(u);
            return rate(s) * (s - normal);
        };
        Marched m = run(
            f, 0, -18, -4, length, [this, place](double u) { return shape_.depth(place(u)); },
            [](double) { return 1e9; });
        m.distance = length;  // what is left at u = -18 is below rounding of any level
        return m;
    }

  private:
    /// Share of the whole length by which a place on a curve may be off.
    static constexpr double smooth_within = 2e-8;
    Trace* trace_;

    template <class F, class Depth, class Widest>
    [[nodiscard]] Marched run(F f, double u0, double u1, double step, double length, Depth depth, Widest widest) const {
        double u = u0, x = 0;
        const double direction = u1 > u0 ? 1 : -1;
        if (u0 == u1 || length <= 0) return {depth(u0), 0};
        for (int panels = 0; panels < 400; ++panels) {
            double next =
                u + std::copysign(std::min(std::abs(step), direction > 0 ? widest(u) : widest(u) / 1.75), step);
            if ((next - u1) * direction >= 0) next = u1;
            const Panel panel(f, u, next);
            const double scale = std::max(std::abs(panel.total()), 1e-4 * length);
            if (panel.error() > 5e-4 * scale && std::abs(next - u) > 1e-7 * std::abs(u1 - u0)) {
                step = (next - u) / 2;
                continue;
            }
            const bool smooth = panel.inside() < smooth_within * length;
            if (trace_) trace_->add(x, panel);
            if (x + panel.total() >= length) {
                const double guess = panel.where(length - x);
                return {depth(smooth ? guess : within(f, panel, length - x, guess)), length};
            }
            x += panel.total();
            u = next;
            if (u == u1) break;
            // The error grows with the sixth power of the width.
            if (panel.error() < 5e-4 * scale)
                step *= panel.error() < 1e-5 * scale ? 2.5 : panel.error() < 1e-4 * scale ? 1.8 : 1.3;
        }
        return {depth(u), x};
    }

    template <class F>
    [[nodiscard]] static double gauss4(const F& f, double a, double b) {
        constexpr double outer = 0.861136311594052575, inner = 0.339981043584856265, of_outer = 0.347854845137453857,
                         of_inner = 0.652145154862546143;
        const double middle = (a + b) / 2, half = (b - a) / 2;
        return half * (of_outer * (f(middle - half * outer) + f(middle + half * outer)) +
                       of_inner * (f(middle - half * inner) + f(middle + half * inner)));
    }

    /// Where the integral reaches a target inside a panel whose polynomial does not follow it closely enough.
    template <class F>
    [[nodiscard]] double within(const F& f, const Panel& panel, double target, double guess) const {
        const double a = panel.from(), width = panel.to() - a;
        if (target >= panel.total()) return panel.to();
        double low = 0, high = 1, t = (guess - a) / width;  // share of the panel
        // The shorter side of the guess, by Gauss's four points: the panel's three were near the truth over all of it.
        double there = guess, f_there = f(there),
               come = t < 0.5 ? gauss4(f, a, there) : panel.total() - gauss4(f, there, panel.to());
        for (int i = 0; i < 60; ++i) {
            const double error = come - target;
            (error > 0 ? high : low) = t;
            double next = t - error / (f_there * width);
            if (!(next >= low && next <= high)) next = (low + high) / 2;
            const double moved = std::abs(next - t);
            t = next;
            if (moved < 3e-4) break;  // quadratic: what is left is below 1e-7 of the panel
            const double to = a + width * t, f_to = f(to);
            // A short piece more or less by Simpson's rule, its error of the fifth order; a long one anew.
            come = moved < 0.1 ? come + (to - there) / 6 * (f_there + 4 * f((there + to) / 2) + f_to)
                               : Panel(f, a, to).total();
            there = to;
            f_there = f_to;
        }
        return a + width * t;
    }

    Shape shape_;
    double slope_, qn2_, q2g_, sign_, least_friction_;
};

/// Free-surface march upstream from depth y0 >= critical. Returns where it ended: the length, the crown, or critical
/// depth.
template <class Shape>
Marched march_up(const Shape& shape, const Barrel& b, const BarrelState& st, double y0, double length,
                 Trace* trace = nullptr) {
    const March<Shape> march(shape, b, -1, st.least_friction, trace);
    const double s0 = shape.parameter(y0), top = shape.height();
    if (std::isfinite(st.normal)) {
        if (std::abs(y0 - st.normal) < 1e-9) return {st.normal, length};
        const bool falls = y0 > st.normal && y0 < st.upper_normal;  // S0 > Sf: the depth falls going upstream
        if (falls || y0 >= top) {
            if (!st.steep) return march.towards(s0, shape.parameter(st.normal), length);
            return march.to(s0, shape.parameter(st.critical), length);
        }
        if (y0 < st.normal) return march.towards(s0, shape.parameter(st.normal), length);
    }
    return march.to(s0, shape.full_parameter(), length);
}

struct Walk {
    double depth, reach, full;
};

/// The downstream-controlled curve up to `length` from the downstream end.
template <class Shape>
Walk walk_up(const Shape& shape, const Barrel& b, const BarrelState& st, double depth_down, double length,
             Trace* trace = nullptr) {
    const double top = shape.height();
    double y = std::max(depth_down, st.critical), gone = 0, full = 0;
    const double excess = st.friction_full - b.slope;  // how the pressure head grows going upstream
    if (y >= top) {
        if (excess >= 0) return {y + excess * length, length, length};
        const double meets = (y - top) / -excess;
        if (meets >= length) return {y + excess * length, length, length};
        gone = full = meets;
        y = top;
        // A box whose critical depth lies at or above its lid: below the lid the flow is fast, no slow curve goes on.
        if (st.steep && st.critical >= top) return {st.critical, gone, full};
    }
    const Marched m = march_up(shape, b, st, y, length - gone, trace);
    gone += m.distance;
    if (gone >= length * (1 - 1e-12)) return {m.depth, length, full};
    if (m.depth >= top * (1 - 1e-9)) return {top + excess * (length - gone), length, full + length - gone};
    return {st.critical, gone, full};
}

template <class Shape>
Marched walk_down(const Shape& shape, const Barrel& b, const BarrelState& st, double depth_up, double length,
                  Trace* trace = nullptr) {
    const double y = std::min(depth_up, st.critical);
    const March<Shape> march(shape, b, +1, 0, trace);
    // Fast flow settles at its normal depth from either side; above a second normal depth it rises to critical depth.
    if (std::isfinite(st.fast_normal) && y < st.upper_normal) {
        if (std::abs(y - st.fast_normal) < 1e-9) return {st.fast_normal, length};
        return march.towards(shape.parameter(y), shape.parameter(st.fast_normal), length);
    }
    return march.to(shape.parameter(y), shape.parameter(st.critical), length);
}

double friction_at(const Barrel& b, double depth) {
    const double k = conveyance(b.section, b.n, depth);
    return k > 0 ? b.flow * b.flow / (k * k) : std::numeric_limits<double>::infinity();
}

}  // namespace

BarrelState state_of(const Barrel& b, double normal) { return state_of(b, normal, critical_depth(b.section, b.flow)); }
BarrelState state_of(const Barrel& b, double normal, double critical) {
    BarrelState st{};
    st.normal = normal;
    st.critical = critical;
    const double k = full_conveyance(b.section, b.n);
    st.friction_full = b.flow * b.flow / (k * k);
    st.upper_normal = std::isfinite(normal) && st.friction_full > b.slope
                          ? upper_normal_depth(b.section, b.n, b.slope, b.flow)
                          : height(b.section);
    // A box on a falling slope above Qfull runs full.
    const Box* box = std::get_if<Box>(&b.section);
    const bool lid = box && b.slope > 0 && st.friction_full > b.slope;
    if (lid) {
        const double p = 2 * (box->width + box->height) / (box->width + 2 * box->height), r = p * std::cbrt(p);
        st.least_friction = std::min(st.friction_full, r * b.slope);
    }
    const double at_critical = b.flow > 0 ? friction_at(b, st.critical) : 0;
    const bool falls = b.slope > 0 && at_critical < b.slope;
    st.steep = falls && !lid;
    st.fast_normal = std::isfinite(normal) && normal < st.critical ? normal : none;
    if (lid && falls) st.fast_normal = open_normal_depth(*box, b.n, b.slope, b.flow);
    return st;
}
BarrelState state_of(const Barrel& b) { return state_of(b, normal_depth(b.section, b.n, b.slope, b.flow)); }

namespace {

template <class Shape>
Jump find_jump_in(const Shape& shape, const Barrel& b, const BarrelState& st, double depth_up,
                  const SubcriticalCurve& slow, const Trace* marched = nullptr) {
    constexpr double near_enough = 1e-3;  ///< m along the barrel
    const double y_fast0 = std::min(depth_up, st.critical), top = shape.height(), length = b.length;
    Trace fast_trace;
    const Marched fast = walk_down(shape, b, st, y_fast0, length, &fast_trace);
    const double low0 = length - slow.reach, high0 = std::min(fast.distance, length);
    if (low0 >= high0) return {high0 >= length ? length : high0, fast.depth};
    const auto m = [&](double y) { return momentum(b.section, y, b.flow); };
    Trace own;
    const Trace& slow_trace = marched ? *marched : own;
    double y_free = slow.depth_down, full = 0;
    const double excess = st.friction_full - b.slope;
    const March<Shape> down(shape, b, +1, 0), up(shape, b, -1, st.least_friction);
    // From the knot before a place; from the end of the curve where a trace does not hold it.
    const auto exact_slow = [&](double x) {
        if (x >= length) return slow.depth_down;
        if (x <= low0) return slow.depth_up;
        const double back = length - x - full;
        if (slow_trace.count > 0 && back > 0 && back < slow_trace.end()) return up.along(slow_trace, back);
        return walk_up(shape, b, st, slow.depth_down, length - x).depth;
    };
    const auto exact_fast = [&](double x) {
        if (x >= high0) return fast.depth;
        if (x <= 0) return y_fast0;
        if (fast_trace.count > 0 && x < fast_trace.end()) return down.along(fast_trace, x);
        return walk_down(shape, b, st, y_fast0, x).depth;
    };
    const auto exact = [&](double x) { return m(exact_fast(x)) - m(exact_slow(x)); };
    // Swept out, or drowned, is seen at the ends: they bracket the jump.
    double low = low0, high = high0, f_high = exact(high0), f_low = 0;
    if (f_high >= 0) return {high0, fast.depth};
    f_low = exact(low0);
    if (f_low <= 0) return {low0 <= 0 ? 0 : low0, fast.depth};
    // The slow curve as it was marched: a full part, then a free one, above which it may be full again.
    if (y_free >= top) {
        full = excess >= 0 ? length : std::min((y_free - top) / -excess, length);
        y_free = top;
    }
    if (!marched && full < slow.reach && !(st.critical >= top))
        (void)march_up(shape, b, st, y_free, slow.reach - full, &own);
    const auto traced = [&](double x) {
        const double back = length - x;
        double y = 0;
        if (back <= full) y = slow.depth_down + excess * back;
        else if (slow_trace.count < 1) y = y_free;
        else if (back - full > slow_trace.end()) y = std::max(top, slow.depth_up - excess * (x - low0));
        else y = up.near(slow_trace, back - full);
        return m(fast_trace.count < 1 ? y_fast0 : down.near(fast_trace, x)) - m(y);
    };
    // First on the traced curves, which cost little: regula falsi that halves a value kept twice (Illinois).
    const auto search = [&](auto&& f, double a, double fa, double c, double fc, double tolerance, int most) {
        double x = a;
        int side = 0;
        for (int i = 0; i < most && c - a > tolerance; ++i) {
            x = (a * fc - c * fa) / (fc - fa);
            if (!(x > a && x < c)) x = (a + c) / 2;
            const double fx = f(x);
            if (fx == 0) break;
            if (fx > 0) {
                a = x, fa = fx;
                if (side == 1) fc /= 2;
                side = 1;
            } else {
                c = x, fc = fx;
                if (side == -1) fa /= 2;
                side = -1;
            }
        }
        return x;
    };
    const double guess = search(traced, low0, f_low, high0, f_high, near_enough / 2, 30);
    // Then on the curves themselves, by secants held inside the bracket. The first slope is that of the traced curves,
    // believed only where they agree with the curves.
    const double h = std::max(near_enough, 1e-3 * (high0 - low0)), a = std::max(guess - h, low0),
                 c = std::min(guess + h, high0);
    double x = guess, slope = (traced(c) - traced(a)) / (c - a), x_before = 0, f_before = 0;
    const double span = f_low - f_high;
    for (int i = 0; i < 60 && high - low > near_enough; ++i) {
        const double f = exact(x);
        if (i > 0) slope = (f - f_before) / (x - x_before);
        const double step = -f / slope;
        const bool believed = slope < 0 && (i > 0 || std::abs(f) < 0.02 * span);
        if (believed && std::abs(step) < near_enough / 2) return {std::clamp(x + step, low, high), fast.depth};
        (f > 0 ? low : high) = x;
        x_before = x, f_before = f;
        x += step;
        if (!(slope < 0) || i % 8 == 7 || !(x > low && x < high)) x = (low + high) / 2;
    }
    return {(low + high) / 2, fast.depth};
}

}  // namespace

SubcriticalCurve subcritical_curve(const Barrel& b, const BarrelState& st, double depth_down, Jump* behind_entrance) {
    SubcriticalCurve c{};
    c.depth_down = std::max(depth_down, st.critical);
    std::visit(
        [&](const auto& section) {
            const auto s = shape(section);
            Trace trace;
            const Walk w = walk_up(s, b, st, c.depth_down, b.length, behind_entrance ? &trace : nullptr);
            c.depth_up = w.depth;
            c.reach = w.reach;
            c.full_length = w.full;
            if (behind_entrance && st.steep && c.reach < b.length)
                *behind_entrance = find_jump_in(s, b, st, st.critical, c, &trace);
        },
        b.section);
    c.uniform_up = !st.steep && std::isfinite(st.normal) && std::abs(c.depth_up - st.normal) < uniform_within;
    return c;
}

double subcritical_depth(const Barrel& b, const BarrelState& st, double depth_down, double distance) {
    const Walk w = std::visit([&](const auto& s) { return walk_up(shape(s), b, st, depth_down, distance); }, b.section);
    return w.reach >= distance * (1 - 1e-12) ? w.depth : none;
}

SupercriticalCurve supercritical_curve(const Barrel& b, const BarrelState& st, double depth_up) {
    const Marched m =
        std::visit([&](const auto& s) { return walk_down(shape(s), b, st, depth_up, b.length); }, b.section);
    return {m.depth, m.distance};
}

double supercritical_depth(const Barrel& b, const BarrelState& st, double depth_up, double distance) {
    const Marched m =
        std::visit([&](const auto& s) { return walk_down(shape(s), b, st, depth_up, distance); }, b.section);
    return m.distance >= distance * (1 - 1e-12) ? m.depth : none;
}

Jump find_jump(const Barrel& b, const BarrelState& st, double depth_up, const SubcriticalCurve& slow) {
    return std::visit([&](const auto& s) { return find_jump_in(shape(s), b, st, depth_up, slow); }, b.section);
}

std::vector<ProfilePoint> barrel_profile(const Barrel& b, const BarrelState& st, double depth_up_super,
                                         double depth_down, double jump, int points) {
    std::vector<ProfilePoint> profile;
    const auto add = [&](double x, double y) {
        const double a = wetted(b.section, y).area;
        profile.push_back({x, y, a > 0 ? b.flow / a : 0});
    };
    if (b.flow <= 0) {
        add(0, std::max(depth_down - b.slope * b.length, 0.0));
        add(b.length, std::max(depth_down, 0.0));
        return profile;
    }
    if (!std::isfinite(depth_up_super)) jump = 0;
    const auto place = [&](int i, double from, double to) {  // finer at the ends, where curves bend
        const double t = static_cast<double>(i) / points;
        return from + (to - from) * (t * t * (3 - 2 * t));
    };
    if (jump > 0)
        for (int i = 0; i <= points; ++i) {
            const double x = place(i, 0, jump);
            const double y =
                i == 0 ? std::min(depth_up_super, st.critical) : supercritical_depth(b, st, depth_up_super, x);
            if (std::isfinite(y)) add(x, y);
        }
    if (jump < b.length)
        for (int i = 0; i <= points; ++i) {
            const double x = place(i, jump, b.length);
            const double y = subcritical_depth(b, st, depth_down, b.length - x);
            add(x, std::isfinite(y) ? y : st.critical);
        }
    return profile;
}

}  // namespace culvert
