// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/streets/spacing.h"

using namespace culvert;

namespace {

bool close(double a, double b, double relative) {
    return std::abs(a - b) <= relative * std::max(std::abs(a), std::abs(b)) + 1e-15;
}

/// A cross-section as straight pieces from the curb (or the middle of a swale) outward, each a width and a slope: the
/// whole of a gutter worked anew from nothing but d^(5/3).
struct Pieces {
    std::vector<std::pair<double, double>> list;
    double height(double x) const {
        double h = 0;
        for (const auto& [width, slope] : list) {
            h += std::min(x, width) * slope;
            if ((x -= width) <= 0) break;
        }
        return h;
    }
    double width() const {
        double w = 0;
        for (const auto& piece : list) w += piece.first;
        return w;
    }
    /// ∫ max(d − h, 0)^p dx to a place, by Simpson's rule between the corners, with x = end − s³ towards the water's
    /// edge, where it is no polynomial.
    double integral(double d, double p, double to) const {
        double sum = 0, from = 0, low = 0;
        for (const auto& [width, slope] : list) {
            double end = std::min(from + width, to);
            if (slope > 0) end = std::min(end, from + (d - low) / slope);
            if (end > from) {
                constexpr int n = 400;
                const double root = std::cbrt(end - from);
                const auto f = [&](int i) {
                    const double s = root * i / n, x = end - s * s * s;
                    return std::pow(std::max(d - low - (x - from) * slope, 0.0), p) * 3 * s * s;
                };
                double part = f(0) + f(n);
                for (int i = 1; i < n; ++i) part += f(i) * (i % 2 ? 4 : 2);
                sum += part * root / n / 3;
            }
            from += width;
            low += width * slope;
        }
        return sum;
    }
};
/// A composite section has two pieces, a parabola very many, a swale one to each side.
struct Across {
    GutterSection section;
    std::vector<Pieces> sides;
    double at_curb;  ///< slope that openings and grates are reckoned with
    double gutter_width = 0, extra = 0;
};
Across composite(double w, double sw, double sx, double to_crown) {
    return {CompositeSection{w, sw, sx, to_crown}, {{{{w, sw}, {to_crown - w, sx}}}}, sx, w, w * (sw - sx)};
}
Across swale(double left, double right) {
    return {SwaleSection{left, right}, {{{{1e3, left}}}, {{{1e3, right}}}}, right};
}
double carried(const Across& s, double d, double width) {
    double all = 0, wet = 0;
    for (const Pieces& p : s.sides) wet += std::min(p.width(), d / p.list.back().second);
    for (const Pieces& p : s.sides)  // of a swale each side gives its share of the width
        all += 8.0 / 3 *
               p.integral(d, 5.0 / 3,
                          s.sides.size() == 1 ? width : width / wet * std::min(p.width(), d / p.list[0].second));
    return all;
}
double depth_for(const Across& s, double grade, double n, double flow, const StreetConstants& k) {
    double low = 0, high = 100;
    for (int i = 0; i < 100; ++i) {
        const double mid = (low + high) / 2;
        (k.gutter / n * std::sqrt(grade) * carried(s, mid, 1e9) < flow ? low : high) = mid;
    }
    return low;
}

struct Taken {
    double captured = 0, swept = 0, eo = 1, rf = 1, rs = 0, lt = 0, se = 0;  // the rest as of the last of its parts
};
Taken grade_anew(const InletForm& inlet, const Across& s, double grade, double n, double q, const StreetConstants& k) {
    const double d = depth_for(s, grade, n, q, k);
    double area = 0;
    for (const Pieces& p : s.sides) area += p.integral(d, 1, 1e9);
    const double v = q / area;
    const auto share_within = [&](double width) { return std::min(1.0, carried(s, d, width) / carried(s, d, 1e9)); };
    Taken taken;
    const auto along = [&](double length, double se) {
        taken.se = se;
        taken.lt = k.curb_length * std::pow(q, 0.42) * std::pow(grade, 0.3) / std::pow(n * se, 0.6);
        return length >= taken.lt ? q : q * (1 - std::pow(1 - length / taken.lt, 1.8));
    };
    const auto opening = [&](const CurbOpening& o, double length) {
        const double w = s.gutter_width > 0 ? s.gutter_width : o.depression > 0 ? o.depression_width : 0;
        return along(length * (1 - o.clogging),
                     w > 0 ? s.at_curb + (s.extra + o.depression) / w * share_within(w) : s.at_curb);
    };
    const auto grate = [&](const Grate& g) {
        const double length = g.length * (1 - g.clogging), above = v - g.splash_velocity;
        taken.eo = share_within(g.width);
        taken.rf = std::min(1.0, std::max(0.0, 1 - k.splash * std::max(above, 0.0)));
        taken.rs = 1 / (1 + k.side * std::pow(v, 1.8) / (s.at_curb * std::pow(length, 2.3)));
        return q * (taken.rf * taken.eo + taken.rs * (1 - taken.eo));
    };
    const auto all = [&](double captured, double swept = 0) {
        taken.captured = captured;
        taken.swept = swept;
        return taken;
    };
    if (const auto* g = std::get_if<Grate>(&inlet)) return all(grate(*g));
    if (const auto* a = std::get_if<AreaInlet>(&inlet)) return all(grate(a->grate));
    if (const auto* o = std::get_if<CurbOpening>(&inlet)) return all(opening(*o, o->length));
    if (const auto* l = std::get_if<SlottedDrain>(&inlet)) return all(along(l->length * (1 - l->clogging), s.at_curb));
    const auto& c = std::get<CombinationInlet>(inlet);
    const double beyond = c.opening.length - c.grate.length;
    if (beyond <= 0) return all(grate(c.grate));
    const double swept = opening(c.opening, beyond);
    if (swept >= q) return all(q, q);
    Taken whole = grade_anew(c.grate, s, grade, n, q - swept, k);
    whole.captured += swept;
    whole.swept = swept;
    whole.lt = taken.lt, whole.se = taken.se;
    return whole;
}

double sag_anew(const InletForm& inlet, const Across& s, double d, const StreetConstants& k) {
    struct Both {
        double weir, orifice;
        double least() const { return std::min(weir, orifice); }
    };
    const auto grate = [&](const Grate& g, double perimeter) {
        double edge = 0;  // how much higher the section lies at the far side of the grate
        if (s.sides.size() == 1) edge = s.sides[0].height(std::min(g.width, s.sides[0].width()));
        else edge = g.width / (1 / s.sides[0].list[0].second + 1 / s.sides[1].list[0].second);
        const double mean = std::max(d - edge / 2, 0.0);
        return Both{k.grate_weir * perimeter * (1 - g.clogging) * std::pow(mean, 1.5),
                    0.67 * g.length * g.width * g.open_share * (1 - g.clogging) * std::sqrt(2 * 9.81 * mean)};
    };
    const auto weir_of = [&](const CurbOpening& o, double whole, double depth) {
        const double length = whole * (1 - o.clogging), plain = k.curb_weir * length * std::pow(depth, 1.5);
        if (o.depression == 0) return plain;
        const double depressed =
            k.depressed_weir * (length + 1.8 * o.depression_width * (1 - o.clogging)) * std::pow(depth, 1.5);
        return o.length > 3.6 ? std::max(plain, depressed) : depressed;
    };
    const auto opening = [&](const CurbOpening& o, double whole) {
        const double lift = o.throat == Throat::Horizontal ? 1
                            : o.throat == Throat::Inclined ? std::cos(std::atan(1.0))
                                                           : 0;
        const double head = std::max(d + o.depression - lift * o.height / 2, 0.0);
        const double covered = o.height + o.depression;
        return Both{weir_of(o, whole, d),
                    std::max(0.67 * o.height * whole * (1 - o.clogging) * std::sqrt(2 * 9.81 * head),
                             weir_of(o, whole, std::min(d, covered)))};
    };
    if (const auto* g = std::get_if<Grate>(&inlet)) return grate(*g, g->length + 2 * g->width).least();
    if (const auto* a = std::get_if<AreaInlet>(&inlet))
        return grate(a->grate, 2 * a->grate.length + 2 * a->grate.width).least();
    if (const auto* o = std::get_if<CurbOpening>(&inlet))
        return d <= o->height + o->depression ? weir_of(*o, o->length, d) : opening(*o, o->length).least();
    if (const auto* l = std::get_if<SlottedDrain>(&inlet)) {
        const double length = l->length * (1 - l->clogging);
        return std::min(k.slot_weir * length * std::pow(d, 1.5), 0.8 * length * l->slot * std::sqrt(2 * 9.81 * d));
    }
    const auto& c = std::get<CombinationInlet>(inlet);
    const Both g = grate(c.grate, c.grate.length + 2 * c.grate.width), o = opening(c.opening, c.opening.length);
    const double beyond = c.opening.length - c.grate.length;
    return std::min(g.weir + (beyond > 0 ? weir_of(c.opening, beyond, d) : 0), g.orifice + o.orifice);
}

}  // namespace

/// Inlets and their spacing worked a second time, from the printed equations and from the definitions, on random input.
class TestAnew : public QObject {
    Q_OBJECT
    std::mt19937 random_{5};
    double uniform(double a, double b) { return std::uniform_real_distribution<double>(a, b)(random_); }
    bool chance(double p) { return uniform(0, 1) < p; }

    Across section() {
        if (chance(0.2)) return swale(uniform(0.02, 0.3), uniform(0.02, 0.3));
        const double sx = uniform(0.01, 0.06);
        return chance(0.3) ? composite(0, sx, sx, uniform(2, 6))
                           : composite(uniform(0.2, 0.9), sx + uniform(0, 0.1), sx, uniform(2, 6));
    }
    InletForm inlet() {
        const double clogging = chance(0.5) ? 0 : uniform(0.1, 0.8);
        const Grate g{uniform(0.4, 2), uniform(0.3, 0.8),
                      chance(0.3) ? std::numeric_limits<double>::infinity() : uniform(0.5, 3), uniform(0.3, 0.9),
                      clogging};
        const CurbOpening o{uniform(0.5, 6),
                            uniform(0.08, 0.2),
                            std::array{Throat::Horizontal, Throat::Inclined, Throat::Vertical}[random_() % 3],
                            chance(0.5) ? 0 : uniform(0.02, 0.12),
                            uniform(0.3, 0.8),
                            clogging};
        switch (random_() % 5) {
            case 0: return g;
            case 1: return o;
            case 2: return SlottedDrain{uniform(1, 8), uniform(0.02, 0.06), clogging};
            case 3: return AreaInlet{g};
            default: return CombinationInlet{g, o};
        }
    }

  private slots:
    void inlets_on_grade() {
        int part = 0, swept = 0;
        for (int i = 0; i < 400; ++i) {
            const StreetConstants k = street_constants(chance(0.5) ? Edition::Si : Edition::Us);
            const Across s = section();
            const InletForm form = inlet();
            const double grade = uniform(0.001, 0.08), n = uniform(0.011, 0.02), q = uniform(0.002, 0.2);
            const Gutter g{s.section, grade, n};
            const Capture c = on_grade(form, g, q, k);
            const Taken t = grade_anew(form, s, grade, n, q, k);
            const double d = depth_for(s, grade, n, q, k);
            double wet = 0, area = 0;
            for (const Pieces& p : s.sides) {
                area += p.integral(d, 1, 1e9);
                double from = 0, low = 0;  // the first place that lies as high as the water
                for (const auto& [width, slope] : p.list) {
                    from += std::min(width, std::max(d - low, 0.0) / slope);
                    low += width * slope;
                }
                wet += from;
            }
            QVERIFY2(close(c.approach.depth, d, 1e-6) && close(c.approach.spread, wet, 1e-6) &&
                         close(c.approach.velocity, q / area, 1e-6),
                     qPrintable(QString("%1: %2 %3").arg(i).arg(c.approach.depth).arg(d)));
            QVERIFY2(
                close(c.captured, t.captured, 1e-5) && close(c.swept, t.swept, 1e-5) &&
                    close(c.efficiency, t.captured / q, 1e-5),
                qPrintable(QString("%1, form %2: %3 %4").arg(i).arg(form.index()).arg(c.captured).arg(t.captured)));
            QVERIFY(close(c.frontal_share, t.eo, 1e-5) && close(c.frontal, t.rf, 1e-5) && close(c.side, t.rs, 1e-5));
            QVERIFY(close(c.total_length, t.lt, 1e-5) && close(c.effective_slope, t.se, 1e-5));
            part += c.efficiency < 0.999;
            swept += c.swept > 0;
        }
        QVERIFY(part > 200 && swept > 30);
    }
    void inlets_in_sags() {
        int weirs = 0, orifices = 0;
        for (int i = 0; i < 3000; ++i) {
            const StreetConstants k = street_constants(chance(0.5) ? Edition::Si : Edition::Us);
            const Across s = section();
            const InletForm form = inlet();
            const double d = std::pow(10, uniform(-2, 0.2)), q = sag_capacity(form, s.section, d, k);
            QVERIFY2(close(q, sag_anew(form, s, d, k), 1e-9), qPrintable(QString("%1, form %2, %3: %4 %5")
                                                                             .arg(i)
                                                                             .arg(form.index())
                                                                             .arg(d)
                                                                             .arg(q)
                                                                             .arg(sag_anew(form, s, d, k))));
            (sag_control(form, s.section, d, k) == SagControl::Weir ? weirs : orifices) += 1;
            if (q <= 1e-9) continue;
            // The least depth that lets it through.
            const double back = sag_depth(form, s.section, q, k);
            QVERIFY(back <= d * (1 + 1e-9) && close(sag_capacity(form, s.section, back, k), q, 1e-9));
            QVERIFY(sag_capacity(form, s.section, back * (1 - 1e-6), k) <= q * (1 + 1e-9));
        }
        QVERIFY(weirs > 500 && orifices > 500);
    }
    /// Marks of a profile by what they are: any three of them in a row, and all that lies between.
    void marks_of_a_profile() {
        int turns = 0, breaks = 0;
        for (int i = 0; i < 3000; ++i) {
            StreetProfile p;
            double station = uniform(-20, 20);
            const int points = 3 + static_cast<int>(random_() % 12);
            for (int k = 0; k < points; ++k) {
                p.push_back({station, static_cast<double>(random_() % 9)});  // whole metres: many are level
                station += uniform(1, 30);
            }
            const double least = 0.5 + static_cast<double>(random_() % 4);
            std::vector<MarkedPlace> all = marked_places(p, least, uniform(0.01, 0.2)), marks;
            for (const MarkedPlace& m : all) {
                QVERIFY(m.station > p.front().station && m.station < p.back().station);
                QCOMPARE(m.level, level_at(p, m.station));
                (m.mark == ProfileMark::GradeBreak ? breaks : turns) += 1;
                if (m.mark != ProfileMark::GradeBreak) marks.push_back(m);
            }
            // Between two turning points, and from the ends to them, the street goes one way but for waves.
            const auto between = [&](double a, double b) {
                std::vector<double> levels;
                for (const StreetPoint& q : p)
                    if (q.station >= a - 1e-9 && q.station <= b + 1e-9) levels.push_back(q.level);
                return levels;
            };
            const auto against = [](const std::vector<double>& levels, int way) {  // most that it goes the other way
                double most = 0;
                for (std::size_t a = 0; a < levels.size(); ++a)
                    for (std::size_t b = a; b < levels.size(); ++b)
                        most = std::max(most, way * (levels[a] - levels[b]));
                return most;
            };
            for (std::size_t m = 0; m <= marks.size(); ++m) {
                const double a = m ? marks[m - 1].station : p.front().station,
                             b = m < marks.size() ? marks[m].station : p.back().station;
                const std::vector<double> levels = between(a, b);
                if (marks.empty()) {
                    QVERIFY(std::min(against(levels, 1), against(levels, -1)) < least);
                    break;
                }
                const bool up =
                    m < marks.size() ? marks[m].mark == ProfileMark::High : marks[m - 1].mark == ProfileMark::Low;
                if (m && m < marks.size()) QVERIFY(marks[m].mark != marks[m - 1].mark);
                QVERIFY2(against(levels, up ? 1 : -1) < least, qPrintable(QString::number(i)));
                QVERIFY(against(levels, up ? -1 : 1) >= least);
                // A turning point is the lowest, or the highest, of what lies on both sides of it.
                const auto [low, high] = std::minmax_element(levels.begin(), levels.end());
                if (m < marks.size()) QCOMPARE(levels.back(), up ? *high : *low);
                if (m) QCOMPARE(levels.front(), up ? *low : *high);
            }
        }
        QVERIFY(turns > 1000 && breaks > 500);
    }
    void corners_and_heights_of_a_street() {
        for (int i = 0; i < 200; ++i) {
            StreetShape s;
            s.lane_width = uniform(2, 8);
            s.cross_slope = uniform(0.01, 0.05);
            s.gutter_width = chance(0.3) ? 0 : uniform(0.2, 0.9);
            s.gutter_slope = uniform(0.02, 0.1);
            s.curb_height = uniform(0.05, 0.2);
            s.verge_width = uniform(0.5, 4);
            s.verge_slope = uniform(-0.02, 0.05);
            const std::vector<SectionCorner> corners = section_corners(s);
            QCOMPARE(corners.size(), std::size_t{9});
            for (std::size_t k = 0; k < 9; ++k) {
                QVERIFY(corners[k].offset == -corners[8 - k].offset && corners[k].height == corners[8 - k].height);
                if (k) QVERIFY(corners[k].offset >= corners[k - 1].offset);
            }
            const double lane = -s.lane_width * s.cross_slope, gutter = lane - s.gutter_width * s.gutter_slope;
            QVERIFY(close(corners[5].height, lane, 1e-12) && close(corners[6].height, gutter, 1e-12) &&
                    close(corners[7].height, gutter + s.curb_height, 1e-12) &&
                    close(corners[8].height, gutter + s.curb_height + s.verge_width * s.verge_slope, 1e-12));
            for (int k = 0; k < 50; ++k) {
                const double o = uniform(-1.1, 1.1) * s.half_width();
                double want = corners.back().height;
                for (std::size_t c = 1; c < 9; ++c)
                    if (o >= corners[c - 1].offset && o < corners[c].offset)
                        want = corners[c - 1].height + (corners[c].height - corners[c - 1].height) *
                                                           (o - corners[c - 1].offset) /
                                                           (corners[c].offset - corners[c - 1].offset);
                QVERIFY(close(height_at(s, o), want, 1e-9) || std::abs(height_at(s, o) - want) < 1e-12);
            }
        }
    }
    /// Every inlet of a street: the water between two of them, the one it comes to, the place that is asked for.
    void inlets_along_a_street() {
        int sags = 0, flankers = 0, kept_free = 0, moved = 0, watched = 0;
        for (int i = 0; i < 300; ++i) {
            SpacingTask t;
            double station = uniform(0, 50), level = 100;
            const int points = 2 + static_cast<int>(random_() % 6);
            for (int k = 0; k < points; ++k) {
                t.profile.push_back({station, level});
                station += uniform(40, 200);
                level += (chance(0.6) ? -1 : 1) * uniform(0.3, 4);
            }
            const Across s = composite(0.5, 0.05, 0.02, 4);
            t.section = s.section;
            t.inlet = Grate{0.6, 0.45, 2};
            t.load = uniform(1e-4, 4e-4);
            t.allowed_spread = uniform(1, 2.5);
            t.begin = t.profile.front().station + (chance(0.5) ? 0 : uniform(0, 20));
            t.end = t.profile.back().station - (chance(0.5) ? 0 : uniform(0, 20));
            t.flankers = chance(0.5);
            t.constants = street_constants(chance(0.5) ? Edition::Si : Edition::Us);
            for (int k = static_cast<int>(random_() % 4); k > 0; --k) {
                const double from = uniform(t.begin, t.end);
                t.avoid.push_back({from, from + uniform(3, 25)});
            }
            const Spacing spacing = space_inlets(t);
            QVERIFY(spacing.fault.empty());
            // Which way water runs at a place, and where it would stop.
            const auto falls = [&](double at) { return grade_at(t.profile, at) < 0 ? 1 : -1; };
            std::vector<double> lows;
            for (std::size_t k = 1; k + 1 < t.profile.size(); ++k) {
                const StreetPoint& q = t.profile[k];
                if (q.station > t.begin && q.station < t.end && q.level < t.profile[k - 1].level &&
                    q.level < t.profile[k + 1].level)
                    lows.push_back(q.station);
            }
            std::vector<double> found;
            double own = 0, ends[2] = {0, 0};
            std::vector<double> arrives(spacing.inlets.size(), 0);
            for (std::size_t k = 0; k < spacing.inlets.size(); ++k) {
                const SpacedInlet& in = spacing.inlets[k];
                if (k) QVERIFY(in.station >= spacing.inlets[k - 1].station);
                own += in.own;
                QVERIFY(close(in.own, in.length * t.load, 1e-9) &&
                        close(in.drains_to - in.drains_from, in.length, 1e-9));
                if (in.as == SpacedAs::Sag) found.push_back(in.station);
                if (in.to >= 0) {
                    const SpacedInlet& next = spacing.inlets[static_cast<std::size_t>(in.to)];
                    arrives[static_cast<std::size_t>(in.to)] += in.bypass;
                    QVERIFY(next.as == SpacedAs::Sag || std::abs(next.station - in.station) >= t.least_gap - 1e-9);
                }
                flankers += in.as == SpacedAs::Flanker;
                if (in.as == SpacedAs::Sag) {
                    QVERIFY(in.bypass == 0 && close(in.captured, in.approach, 1e-12) && in.to < 0);
                    QVERIFY(close(sag_capacity(t.inlet, t.section, in.depth, t.constants), in.approach, 1e-9));
                    QVERIFY(close(in.spread, spread_of_depth(t.section, in.depth), 1e-12));
                    continue;
                }
                const int way = falls(in.station + (falls(in.station - 1e-4) > 0 ? -1e-4 : 1e-4));
                const Capture c =
                    on_grade(t.inlet, {t.section, std::abs(grade_at(t.profile, in.station - way * 1e-4)), t.n},
                             in.approach, t.constants);
                QVERIFY(close(c.captured, in.captured, 1e-9) && close(in.bypass + in.captured, in.approach, 1e-9));
                QVERIFY(close(c.approach.spread, in.spread, 1e-9) && close(c.approach.depth, in.depth, 1e-9));
                if (in.as == SpacedAs::OnGrade &&
                    std::none_of(spacing.notes.begin(), spacing.notes.end(),
                                 [](const std::string& n) { return n.starts_with("at station"); })) {
                    // It stands where the spread is reached, or above ranges that are kept free.
                    QVERIFY(in.spread <= t.allowed_spread * (1 + 1e-9));
                    bool free = false;
                    for (const auto& [a, b] : t.avoid) free |= std::abs(in.station - (way > 0 ? a : b)) < 1e-9;
                    const bool at_corner = std::any_of(t.profile.begin(), t.profile.end(), [&](const StreetPoint& q) {
                        return std::abs(q.station - in.station) < 1e-6;
                    });
                    QVERIFY(free || at_corner || close(in.spread, t.allowed_spread, 1e-6));
                    moved += free;
                }
                for (const auto& [a, b] : t.avoid)
                    if (in.station > a + 1e-9 && in.station < b - 1e-9 && in.as == SpacedAs::OnGrade)
                        QVERIFY(!spacing.notes.empty());
                kept_free += !t.avoid.empty();
                // Above it, from the inlet before it on or from where its water begins, nothing spreads farther.
                if (in.as == SpacedAs::OnGrade && spacing.notes.empty())
                    for (double x = 0.005; x < 1; x += 0.01) {
                        const double head = way > 0 ? in.drains_from : in.drains_to,
                                     at = head + (in.station - head) * x,
                                     flow = in.approach - t.load * std::abs(in.station - at);
                        const Gutter g{t.section, std::abs(grade_at(t.profile, at)), t.n};
                        QVERIFY(gutter_flow(g, flow, t.constants).spread <= t.allowed_spread * (1 + 1e-6));
                        ++watched;
                    }
                // Its water lies up the street from it, and its bypass goes down to the nearest one.
                QVERIFY(way > 0 ? in.drains_to <= in.station + 1e-9 : in.drains_from >= in.station - 1e-9);
                int next = -1;
                for (std::size_t o = 0; o < spacing.inlets.size(); ++o) {
                    const double ahead = (spacing.inlets[o].station - in.station) * way;
                    if (o == k || ahead < 0) continue;
                    if (next < 0 || ahead < (spacing.inlets[static_cast<std::size_t>(next)].station - in.station) * way)
                        next = static_cast<int>(o);
                }
                // Beyond a crest or a low point it is another's water.
                if (next >= 0) {
                    const double a = in.station, b = spacing.inlets[static_cast<std::size_t>(next)].station;
                    for (double x = 0.01; x < 1; x += 0.02)
                        if (falls(a + (b - a) * x) != way) next = -1;
                }
                QCOMPARE(in.to, next);
                if (in.to < 0) ends[way > 0] += in.bypass;
            }
            QVERIFY2(found == lows, qPrintable(QString("%1: %2 %3").arg(i).arg(found.size()).arg(lows.size())));
            sags += static_cast<int>(lows.size());
            for (std::size_t k = 0; k < arrives.size(); ++k)
                QVERIFY2(close(spacing.inlets[k].own + arrives[k], spacing.inlets[k].approach, 1e-9),
                         qPrintable(QString::number(i)));
            // What leaves at the ends: the bypass of the last ones, and the curb below them.
            const double whole = t.load * (t.end - t.begin);
            QVERIFY(close(own + spacing.leaves_begin + spacing.leaves_end, whole + ends[0] + ends[1], 1e-9));
            QVERIFY(spacing.leaves_begin >= ends[0] - 1e-12 && spacing.leaves_end >= ends[1] - 1e-12);
            QVERIFY(falls(t.begin + 1e-4) < 0 || spacing.leaves_begin == 0);
            QVERIFY(falls(t.end - 1e-4) > 0 || spacing.leaves_end == 0);
            // Flankers stand 0.37 of the allowed depth above the low point, or above what is kept free.
            const double allowed = std::min(depth_of_spread(t.section, t.allowed_spread), t.crest);
            for (const SpacedInlet& in : spacing.inlets)
                if (in.as == SpacedAs::Flanker) {
                    double base = 0, nearest = 1e9;
                    for (const double low : lows)
                        if (std::abs(low - in.station) < nearest)
                            nearest = std::abs(low - in.station), base = level_at(t.profile, low);
                    bool free = false;
                    for (const auto& [a, b] : t.avoid)
                        free |= std::abs(in.station - a) < 1e-9 || std::abs(in.station - b) < 1e-9;
                    const bool top = std::any_of(t.profile.begin(), t.profile.end(), [&](const StreetPoint& q) {
                        return std::abs(q.station - in.station) < 1e-9;
                    });
                    QVERIFY(free || top || std::abs(level_at(t.profile, in.station) - base - 0.37 * allowed) < 1e-9);
                }
        }
        QVERIFY2(sags > 100 && flankers > 50 && kept_free > 300 && moved > 30 && watched > 20000,
                 qPrintable(QString("%1 %2 %3 %4").arg(sags).arg(flankers).arg(kept_free).arg(moved)));
    }
};

QTEST_GUILESS_MAIN(TestAnew)
#include "test_anew.moc"
