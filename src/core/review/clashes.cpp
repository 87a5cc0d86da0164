// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/review/clashes.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/contract.h"
#include "core/model/lay.h"
#include "core/review/rules.h"

namespace culvert {
namespace {

constexpr double usual_near = 0.1;

/// What clearances ask, by the kind of the other line.
class Clearances {
  public:
    explicit Clearances(const Project& project) {
        for (const Clearance& c : project.clearances) {
            rows_[static_cast<std::size_t>(c.kind)] = {usable(c, &Clearance::vertical, not_given),
                                                       usable(c, &Clearance::horizontal, not_given)};
            if (rows_[static_cast<std::size_t>(c.kind)].second > reach) reach = c.horizontal;
        }
    }
    [[nodiscard]] std::pair<double, double> of(LineKind kind) const { return nth(rows_, kind); }
    double reach = 0;  ///< largest horizontal clearance

  private:
    std::array<std::pair<double, double>, static_cast<std::size_t>(LineKind::Other) + 1> rows_ = [] {
        std::array<std::pair<double, double>, static_cast<std::size_t>(LineKind::Other) + 1> none;
        none.fill({not_given, not_given});
        return none;
    }();
};

/// A vertical piece of a structure, as wide as its outline.
SpaceLine column(const Project& project, const Structure& s, double bottom) {
    const StructureType* type = type_of(project, s);
    const double wide = type && type->length > 0 ? std::max(type->length, type->width > 0 ? type->width : 0) : 1.0;
    const double z = (s.rim + bottom) / 2;
    SpaceLine line;
    line.half_width = wide / 2;
    line.half_height = (s.rim - bottom) / 2;
    line.points = {{s.x, s.y, z}, {s.x, s.y + 1e-6, z}};
    return line;
}

class Search {
  public:
    explicit Search(const Project& project)
        : project_(project), clearances_(project), near_share_(project.settings().near_share) {
        if (!(near_share_ >= 0 && near_share_ < 1)) near_share_ = usual_near;
    }

    std::vector<Clash> run() {
        gather();
        const double reach = clearances_.reach * (1 + near_share_);
        for (const NearPlace& n : near_places(pipes_, others_, reach))
            add(n, ElementRef{Kind::BuriedLine, other_rows_[n.second]->id}, other_rows_[n.second]->kind,
                others_[n.second]);
        for (const NearPlace& n : near_places(pipes_, pipes_, reach, true)) {
            const Pipe &a = *rows_[n.first], &b = *rows_[n.second];
            if (a.from == b.from || a.from == b.to || a.to == b.from || a.to == b.to) continue;  // they meet there
            add(n, ElementRef{Kind::Pipe, b.id}, LineKind::Storm, pipes_[n.second]);
        }
        for (const NearPlace& n : near_places(pipes_, columns_, reach)) {
            const Pipe& a = *rows_[n.first];
            const std::uint64_t s = column_rows_[n.second]->id;
            if (a.from.value == s || a.to.value == s) continue;
            NearPlace beside = n;
            beside.crosses = false;  // what passes through a structure is beside its middle
            add(beside, ElementRef{Kind::Structure, s}, LineKind::Storm, columns_[n.second]);
        }
        std::sort(out_.begin(), out_.end(), [](const Clash& x, const Clash& y) {
            return std::tie(x.pipe, x.along, x.other) < std::tie(y.pipe, y.along, y.other);
        });
        return std::move(out_);
    }

  private:
    void gather() {
        std::map<std::uint64_t, double> lowest;
        for (const Pipe& p : project_.pipes) {
            if (p.status == Status::Abandoned) continue;
            for (const auto& [s, z] : {std::pair{p.from.value, p.invert_from}, {p.to.value, p.invert_to}})
                if (!std::isnan(z)) {
                    const auto [at, fresh] = lowest.try_emplace(s, z);
                    if (!fresh) at->second = std::min(at->second, z);
                }
            SpaceLine line = space_line(project_, p);
            if (line.points.size() < 2) continue;
            pipes_.push_back(std::move(line));
            rows_.push_back(&p);
        }
        for (const BuriedLine& l : project_.buried_lines) {
            if (l.status == Status::Abandoned || l.line.size() < 2 || !in_reach(l.line)) continue;
            others_.push_back(space_line(l));
            other_rows_.push_back(&l);
        }
        for (const Structure& s : project_.structures) {
            const auto bottom = lowest.find(s.id);
            if (!placed(s) || std::isnan(s.rim) || bottom == lowest.end() || s.status == Status::Abandoned ||
                s.kind == StructureKind::Joint || s.kind == StructureKind::Outfall)
                continue;
            columns_.push_back(column(project_, s, bottom->second - (s.sump > 0 ? s.sump : 0)));
            column_rows_.push_back(&s);
        }
    }

    void add(const NearPlace& n, ElementRef other, LineKind kind, const SpaceLine& line) {
        const auto [vertical, horizontal] = clearances_.of(kind);
        Clash c;
        c.pipe = {rows_[n.first]->id};
        c.other = other;
        c.along = n.along_first;
        c.at = n.at;
        c.crosses = n.crosses;
        c.other_above = n.second_above;
        c.vertical = n.vertical;
        c.horizontal = n.crosses ? std::min(n.horizontal, 0.0) : n.horizontal;
        c.least_vertical = vertical;
        c.least_horizontal = horizontal;
        const double z = level_of(line, n.along_second);
        c.other_top = z + line.half_height;
        c.other_bottom = z - line.half_height;
        c.verdict = verdict(c);
        if (c.crosses || c.verdict >= Verdict::Near) out_.push_back(c);
    }
    /// Too near where both gaps are below their clearances; where they meet, whatever the clearances say.
    [[nodiscard]] Verdict verdict(const Clash& c) const {
        if (c.crosses && std::isnan(c.vertical)) return Verdict::Unknown;
        if (std::isnan(c.vertical)) return Verdict::Within;  // beside it, at a level not known
        const auto below = [](double gap, double least, double share) {
            return beyond_limit(gap, (std::isnan(least) ? 0 : least) * (1 + share), false);
        };
        for (const auto& [share, v] : {std::pair{0.0, Verdict::Beyond}, {near_share_, Verdict::Near}})
            if (below(c.vertical, c.least_vertical, share) &&
                (c.crosses || below(c.horizontal, c.least_horizontal, share)))
                return v;
        return Verdict::Within;
    }
    static double level_of(const SpaceLine& line, double along) {
        for (std::size_t i = 0; i + 1 < line.points.size(); ++i) {
            const SpacePoint &a = line.points[i], &b = line.points[i + 1];
            const double l = std::hypot(b.x - a.x, b.y - a.y);
            if (along <= l || i + 2 == line.points.size())
                return a.z + (l > 0 ? std::clamp(along / l, 0.0, 1.0) : 0) * (b.z - a.z);
            along -= l;
        }
        return not_given;
    }

    const Project& project_;
    Clearances clearances_;
    double near_share_;
    std::vector<SpaceLine> pipes_, others_, columns_;
    std::vector<const Pipe*> rows_;
    std::vector<const BuriedLine*> other_rows_;
    std::vector<const Structure*> column_rows_;
    std::vector<Clash> out_;
};

}  // namespace

SpaceLine space_line(const Project& project, const Pipe& pipe) {
    SpaceLine out;
    const std::vector<Point> way = pipe_line(project, pipe);
    if (way.size() < 2 || !in_reach(way)) return out;
    const double h = height(section_of(pipe)), all = length(way), count = std::max(1.0, std::floor(pipe.barrels));
    const double wide = span_of(section_of(pipe));
    out.half_height = h / 2 + pipe.wall;
    out.half_width = (count * (wide + 2 * pipe.wall) + (count - 1) * barrel_gap) / 2;
    double along = 0;
    for (std::size_t i = 0; i < way.size(); ++i) {
        if (i > 0) along += distance(way[i - 1], way[i]);
        const double share = all > 0 ? along / all : 0;
        out.points.push_back(
            {way[i].x, way[i].y, pipe.invert_from + share * (pipe.invert_to - pipe.invert_from) + h / 2});
    }
    return out;
}

SpaceLine space_line(const BuriedLine& l) {
    SpaceLine out;
    out.half_width = out.half_height = usable(l, &BuriedLine::size, 0) / 2;
    const double up = l.level_of == LevelOf::Top      ? -out.half_height
                      : l.level_of == LevelOf::Bottom ? out.half_height
                                                      : 0;
    for (std::size_t i = 0; i < l.line.size(); ++i) {
        double z = not_given;
        if (l.levels.size() == 1) z = l.levels.front();
        else if (l.levels.size() == l.line.size()) z = l.levels[i];
        out.points.push_back({l.line[i].x, l.line[i].y, z + up});
    }
    return out;
}

std::vector<Clash> clashes(const Project& project) { return Search(project).run(); }

std::vector<Finding> clash_findings(const Project& project, const std::vector<Clash>& all) {
    std::vector<Finding> out;
    const UnitSet u = units_of(project);
    const auto metres = [&](double v) { return u.text(v, Quantity::Length); };
    for (const Clash& c : all) {
        if (c.verdict == Verdict::Within) continue;
        Finding f;
        f.element = {Kind::Pipe, c.pipe.value};
        const std::string other = element_name(project, c.other.kind, c.other.id);
        const std::string what = std::string(kind_name(c.other.kind)) + " " + other;
        const Pipe* p = project.pipes.find(c.pipe.value);
        const std::string where =
            "at " + metres(c.along) + " from " +
            (p ? element_name(project, Kind::Structure, p->from.value) : std::string("its start"));
        f.field = other;
        f.check.quantity = Quantity::Length;
        f.check.at_most = false;
        if (c.verdict == Verdict::Unknown) {
            f.severity = Severity::Warning;
            f.check.rule = Rule::Data;
            f.title = "crossing without a level";
            f.check.verdict = Verdict::Near;
            f.detail = "crosses " + what + " " + where + ", but a level of one of them is not known";
            f.remedy = "Give the levels of " + other + ", or those of the pipe.";
            out.push_back(std::move(f));
            continue;
        }
        f.check.rule = c.crosses ? Rule::Crossing : Rule::Beside;
        f.check.value = c.crosses ? c.vertical : c.horizontal;
        const double least = c.crosses ? c.least_vertical : c.least_horizontal;
        f.check.limit = std::isnan(least) ? 0 : least;
        f.check.verdict = c.verdict;
        f.severity = c.verdict == Verdict::Beyond ? Severity::Error : Severity::Warning;
        f.title = c.verdict == Verdict::Near ? near_name(f.check.rule) : rule_name(f.check.rule);
        f.detail = std::string(c.crosses ? "crosses " : "passes ") + what + " " + where + ", " +
                   (c.other_above ? "under it" : "over it") + ": " +
                   (c.vertical < 0 && (c.crosses || c.horizontal < 0) ? "they meet, by " + metres(-c.vertical)
                    : c.crosses                                       ? metres(c.vertical) + " between the outsides"
                                : metres(c.horizontal) + " beside it, " + metres(c.vertical) + " in height") +
                   ", at least " + metres(f.check.limit);
        f.remedy = c.crosses ? "Grade the pipe over or under it, or move one of them."
                             : "Move one of them aside, or lay it deeper.";
        out.push_back(std::move(f));
    }
    return out;
}

}  // namespace culvert
