// SPDX-License-Identifier: GPL-3.0-or-later
#include "drawing/profile_sheet.h"

#include <algorithm>
#include <cmath>

#include "core/base/numbers.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

constexpr double left = 34, right = 8, foot = 8, head = 12, row = 6;  ///< mm
constexpr double column = 13;                                         ///< what a figure of the table needs across
constexpr int rows = 8;

class Sheet {
  public:
    Sheet(const Project& project, const Profile& profile, const EventResult* result, const ProfileSheetOptions& options)
        : project_(project), profile_(profile), result_(result), options_(options), units_(units_of(project)) {}

    ProfileSheet run() {
        bounds();
        grid();
        ground(options_.existing, "existing ground", 0.35);
        ground(options_.finished, "finished ground", 0.65);
        for (Drawn d : draw_profile(project_, profile_)) {
            for (Point& p : d.points) p = place(p);
            if (d.type == Drawn::Type::Level) {  // across the structure
                const Point p = d.points.front();
                d = {Drawn::Type::Line, d.ink, {{p.x - 1.5, p.y}, {p.x + 1.5, p.y}}, {}, d.element};
            }
            if (d.type == Drawn::Type::Text) d.points.front().y += 2;
            out_.list.push_back(std::move(d));
        }
        other_events();
        crossings();
        table();
        title();
        return std::move(out_);
    }

  private:
    void bounds() {
        const double metre = units_.unit(Quantity::Level).factor, step = 5 * metre * std::max(1.0, options_.up / 100);
        low_ = std::floor((profile_.low - 0.2) / step * 5) * step / 5;
        double highest = profile_.high;
        for (const auto& [event, parts] : options_.others)
            for (const auto& part : parts)
                for (const Point& p : part) highest = std::max(highest, p.y);
        const double high = std::ceil((highest + 0.2) / step * 5) * step / 5;
        table_top_ = foot + rows * row;
        out_.width = left + profile_.length * 1000 / options_.across + right;
        top_ = table_top_ + 4 + (high - low_) * 1000 / options_.up;
        out_.height = top_ + head;
    }
    [[nodiscard]] double x_of(double x) const { return left + x * 1000 / options_.across; }
    [[nodiscard]] double y_of(double level) const { return table_top_ + 4 + (level - low_) * 1000 / options_.up; }
    [[nodiscard]] Point place(Point p) const { return {x_of(p.x), y_of(p.y)}; }
    void line(Ink ink, std::vector<Point> points) {
        out_.list.push_back({Drawn::Type::Line, ink, std::move(points), {}, {}});
    }
    void words(Ink ink, double x, double y, std::string text) {
        out_.list.push_back({Drawn::Type::Text, ink, {{x, y}}, std::move(text), {}});
    }
    /// Levels every 10 mm or more of paper, in round steps.
    void grid() {
        const double unit = units_.unit(Quantity::Level).factor;
        double step = unit;
        for (const double s : {0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0})
            if (step = s * unit; step * 1000 / options_.up >= 10) break;
        for (double z = std::ceil(low_ / step) * step; y_of(z) < top_; z += step) {
            line(Ink::QuietLabel, {{left - 3, y_of(z)}, {out_.width - right, y_of(z)}});
            words(Ink::QuietLabel, 4, y_of(z) - 1, units_.number(z, Quantity::Level));
        }
    }
    void ground(const std::vector<Point>& points, const char* name, double share) {
        std::vector<Point> part;
        const auto end = [&] {
            if (part.size() > 1) line(Ink::Ground, part);
            part.clear();
        };
        for (const Point& p : points) {
            if (std::isnan(p.y)) end();
            else part.push_back(place(p));
        }
        end();
        if (points.empty()) return;
        const Point at = points[static_cast<std::size_t>(share * static_cast<double>(points.size() - 1))];
        if (!std::isnan(at.y)) words(Ink::QuietLabel, x_of(at.x), y_of(at.y) + 1, name);
    }
    /// Named where the run begins; a name that would lie on another is left out.
    void other_events() {
        std::vector<double> named;
        for (const auto& [event, parts] : options_.others)
            for (const auto& part : parts) {
                std::vector<Point> placed;
                for (const Point& p : part) placed.push_back(place(p));
                if (placed.empty()) continue;
                const double y = placed.front().y + 0.5;
                if (&part == &parts.front() &&
                    std::none_of(named.begin(), named.end(), [&](double n) { return std::abs(n - y) < 3; })) {
                    words(Ink::QuietLabel, placed.front().x + 1, y, event);
                    named.push_back(y);
                }
                line(Ink::EnergyLine, std::move(placed));
            }
    }
    void crossings() {
        for (std::size_t i = 0; i < profile_.reaches.size(); ++i) {
            const ProfileReach& r = profile_.reaches[i];
            const Pipe* pipe = project_.pipes.find(r.pipe.value);
            if (!pipe) continue;
            const double drawn = drawn_length(project_, *pipe);
            const bool along = pipe->from == profile_.stations[i].structure;
            for (const Clash& c : options_.crossings) {
                if (c.pipe != r.pipe || !c.crosses || std::isnan(c.other_top)) continue;
                const double share = drawn > 0 ? std::clamp(c.along / drawn, 0.0, 1.0) : 0;
                const double x = x_of(r.x0 + (along ? share : 1 - share) * (r.x1 - r.x0));
                const double y0 = y_of(c.other_bottom), y1 = y_of(c.other_top), middle = (y0 + y1) / 2;
                const double a = std::max(0.3, (c.other_top - c.other_bottom) * 500 / options_.across),
                             b = std::max(0.3, (y1 - y0) / 2);
                std::vector<Point> ring;
                for (int k = 0; k <= 24; ++k)
                    ring.push_back({x + a * std::cos(k * 0.2617993878), middle + b * std::sin(k * 0.2617993878)});
                const bool bad = c.verdict == Verdict::Beyond;
                line(bad ? Ink::BarrelBeyond : Ink::Structure, std::move(ring));
                words(bad ? Ink::BeyondLabel : Ink::Label, x + a + 1, middle - 1,
                      element_name(project_, c.other.kind, c.other.id));
            }
        }
    }
    /// Station by station and pipe by pipe; where there is no room for a figure it is left out.
    void table() {
        const std::string level(units_.unit(Quantity::Level).symbol), length(units_.unit(Quantity::Length).symbol),
            size(units_.unit(Quantity::Size).symbol), slope(units_.unit(Quantity::Slope).symbol),
            flow(units_.unit(Quantity::Flow).symbol), velocity(units_.unit(Quantity::Velocity).symbol);
        const std::string heads[rows] = {"structure",    "distance " + length, "rim " + level,   "invert " + level,
                                         "HGL " + level, "size " + size,       "slope " + slope, "flow " + flow};
        for (int i = 0; i <= rows; ++i) {
            const double y = table_top_ - i * row;
            line(Ink::QuietLabel, {{2, y}, {out_.width - right, y}});
            if (i < rows) words(Ink::Label, 4, y - row + 2, heads[i]);
        }
        const auto y = [&](int i) { return table_top_ - (i + 1) * row + 2; };
        double free = -1e9;
        for (const ProfileStation& s : profile_.stations) {
            const double x = x_of(s.x);
            line(Ink::QuietLabel, {{x, table_top_}, {x, table_top_ - 5 * row}});
            if (x < free) continue;
            free = x + column;
            words(Ink::Label, x + 0.7, y(0), s.name);
            words(Ink::Label, x + 0.7, y(1), units_.number(s.x, Quantity::Length));
            for (const auto& [at, z] : {std::pair{2, s.rim}, {3, s.bottom}, {4, s.level}})
                if (!std::isnan(z)) words(Ink::Label, x + 0.7, y(at), units_.number(z, Quantity::Level));
        }
        free = -1e9;
        for (const ProfileReach& r : profile_.reaches) {
            const Pipe* pipe = project_.pipes.find(r.pipe.value);
            const double x0 = x_of(r.x0), x = (x0 + x_of(r.x1)) / 2 - column / 2;
            line(Ink::QuietLabel, {{x0, table_top_ - 5 * row}, {x0, table_top_ - rows * row}});
            if (!pipe || x < free || x_of(r.x1) - x0 < column) continue;
            free = x + column;
            words(Ink::Label, x + 0.7, y(5), size_words(units_, *pipe, false));
            const double l = r.x1 - r.x0;
            if (l > 0 && !std::isnan(r.invert_up) && !std::isnan(r.invert_down))
                words(Ink::Label, x + 0.7, y(6), units_.number((r.invert_up - r.invert_down) / l, Quantity::Slope));
            if (result_ && r.link != no_link && static_cast<std::size_t>(r.link) < result_->links.size())
                words(Ink::Label, x + 0.7, y(7),
                      units_.number(result_->links[static_cast<std::size_t>(r.link)].flow.flow, Quantity::Flow));
        }
    }
    static std::string scale(double v) { return fixed(v, v == std::floor(v) ? 0 : 2); }
    void title() {
        std::string t = profile_.stations.front().name + " to " + profile_.stations.back().name +
                        ", 1 : " + scale(options_.across) + " and 1 : " + scale(options_.up);
        if (!project_.settings().title.empty()) t = project_.settings().title + ", " + t;
        if (result_)
            if (const RainEvent* e = project_.events.find(result_->event.value)) t += ", " + e->name;
        words(Ink::Label, 4, out_.height - 6, std::move(t));
    }

    const Project& project_;
    const Profile& profile_;
    const EventResult* result_;
    const ProfileSheetOptions& options_;
    UnitSet units_;
    double low_ = 0, table_top_ = 0, top_ = 0;
    ProfileSheet out_;
};

}  // namespace

ProfileSheet profile_sheet(const Project& project, const Profile& profile, const EventResult* result,
                           const ProfileSheetOptions& options) {
    if (profile.empty() || !(options.across > 0) || !(options.up > 0)) return {};
    return Sheet(project, profile, result, options).run();
}

ProfileSheet side_by_side(const std::vector<ProfileSheet>& sheets) {
    ProfileSheet out;
    for (const ProfileSheet& s : sheets) {
        for (Drawn d : s.list) {
            for (Point& p : d.points) p.x += out.width;
            out.list.push_back(std::move(d));
        }
        out.width += s.width;
        out.height = std::max(out.height, s.height);
    }
    return out;
}

}  // namespace culvert
