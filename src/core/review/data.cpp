// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <map>

#include "core/hydrology/idf.h"
#include "core/review/review.h"

namespace culvert {
namespace {

class DataReview {
  public:
    DataReview(const Project& project, const Network& network)
        : project_(project), network_(network), units_(units_of(project)) {}

    std::vector<Finding> run() {
        for (const Fault& f : network_.faults) {
            Finding finding;
            finding.severity = f.severity;
            finding.element = f.element;
            finding.check.rule = Rule::Data;
            finding.check.verdict = f.severity == Severity::Error ? Verdict::Beyond : Verdict::Near;
            finding.field = f.field;
            finding.title = f.title;
            finding.detail = f.detail;
            finding.remedy = f.remedy;
            findings_.push_back(std::move(finding));
        }
        if (project_.structures.empty())
            say(Severity::Note, Kind::Settings, settings_id, "", "nothing drawn yet", "The project has no structure.",
                "Choose Layout, then click an inlet in the plan.");
        else if (project_.pipes.empty())
            say(Severity::Note, Kind::Settings, settings_id, "", "no pipe yet", "The project has no pipe.",
                "Draw from an inlet to an outfall.");
        if (project_.events.empty())
            say(Severity::Warning, Kind::Settings, settings_id, "", "no rain",
                "The project has no rain event: only known flows run.",
                "Choose Rain and paste a table of durations and intensities.");
        ranges<Structure>();
        ranges<Pipe>();
        ranges<Catchment>();
        ranges<LandCover>();
        ranges<RainEvent>();
        unique_names<Structure>();
        unique_names<Catchment>();
        unique_names<RainEvent>();
        unique_names<Street>();
        unique_names<Surface>();
        unique_names<StructureType>();
        outlines();
        one_point();
        pipes();
        rain();
        paths();
        return std::move(findings_);
    }

  private:
    void say(Severity severity, Kind kind, std::uint64_t id, std::string field, std::string title, std::string detail,
             std::string remedy, Rule rule = Rule::Data) {
        Finding f;
        f.severity = severity;
        f.element = {kind, id};
        f.check.rule = rule;
        f.check.verdict = severity == Severity::Error
                              ? Verdict::Beyond
                              : (severity == Severity::Warning ? Verdict::Near : Verdict::Within);
        f.field = std::move(field);
        f.title = std::move(title);
        f.detail = std::move(detail);
        f.remedy = std::move(remedy);
        findings_.push_back(std::move(f));
    }

    /// Every number within its field's range, every needed one given.
    template <class R>
    void ranges() {
        for (const R& row : project_.table<R>())
            for (const Field<R>& f : fields_of<R>()) {
                const auto* number = std::get_if<double R::*>(&f.member);
                if (!number) continue;
                const double v = row.*(*number);
                std::string fault = range_fault(f, v, units_);
                bool needed = f.needed && std::isnan(v);
                if constexpr (std::is_same_v<R, Structure>)
                    needed = needed && row.kind != static_cast<int>(StructureKind::Outfall) &&
                             row.kind != static_cast<int>(StructureKind::Joint);
                if constexpr (std::is_same_v<R, Catchment>)
                    if (needed)
                        for (const LandCover& l : project_.land_covers) needed = needed && l.catchment.value != row.id;
                if constexpr (std::is_same_v<R, Pipe>)  // compile names these, with what they stop
                    if (needed || (f.low_open && v <= f.low)) continue;
                if (needed) fault = "is not given";
                if (fault.empty()) continue;
                const std::string label(f.label);
                say(Severity::Error, kind_of<R>(), row.id, std::string(f.key),
                    needed ? "value missing" : "value out of range",
                    label + " of " + std::string(kind_name(kind_of<R>())) + " " +
                        element_name(project_, kind_of<R>(), row.id) + " " + fault + ".",
                    needed ? "Type it in the card." : "Correct it in the card.");
            }
    }

    template <class R>
    void unique_names() {
        std::map<std::string, std::uint64_t> seen;
        for (const R& row : project_.table<R>()) {
            if (row.name.empty()) continue;
            const auto [other, fresh] = seen.emplace(row.name, row.id);
            if (!fresh)
                say(Severity::Error, kind_of<R>(), row.id, "name", "name used twice",
                    "Two " + std::string(table_name(kind_of<R>())) + " are named " + row.name + ".",
                    "Rename one of them.");
        }
    }

    void one_point() {
        std::map<std::pair<double, double>, const Structure*> at;
        for (const Structure& s : project_.structures) {
            const auto [other, fresh] = at.emplace(std::pair{s.x, s.y}, &s);
            if (!fresh)
                say(Severity::Warning, Kind::Structure, s.id, "x", "two at one point",
                    "Structures " + other->second->name + " and " + s.name + " stand at one point.",
                    "Move one of them.");
        }
    }

    void pipes() {
        for (const Pipe& p : project_.pipes) {
            const double drawn = drawn_length(project_, p);
            if (!std::isnan(p.length) && drawn > 0 && std::abs(p.length - drawn) > 0.01 * drawn)
                say(Severity::Warning, Kind::Pipe, p.id, "length", std::string(rule_name(Rule::LengthDiffers)),
                    "Pipe " + pipe_name(project_, p) + ": entered " + units_.text(p.length, Quantity::Length) +
                        ", drawn " + units_.text(drawn, Quantity::Length) + ". The entered length is used.",
                    "Clear the length to use the drawn one, or move its ends.", Rule::LengthDiffers);
            const int node = network_.node_of(PipeId{p.id});
            if (node == no_node) continue;
            const Node& n = network_.nodes[static_cast<std::size_t>(node)];
            if (n.structure.value != p.from.value && n.slope > 0 && p.status != static_cast<int>(Status::Abandoned))
                say(Severity::Note, Kind::Pipe, p.id, "from", std::string(rule_name(Rule::AgainstDrawing)),
                    "Pipe " + pipe_name(project_, p) + " was drawn from " +
                        element_name(project_, Kind::Structure, p.from.value) + ", its water runs the other way.",
                    "Nothing needs doing: direction follows the way to the outfall.", Rule::AgainstDrawing);
            if (n.solvable && n.slope < 0)
                say(Severity::Warning, Kind::Pipe, p.id, "invert_from", "adverse slope",
                    "Pipe " + pipe_name(project_, p) + " rises " + units_.text(-n.slope, Quantity::Slope) +
                        " towards the outfall.",
                    "Exchange its inverts, or lower its lower end.");
            const double top = height(n.section);
            for (const bool up : {true, false}) {
                const Node& end = up ? n : network_.nodes[static_cast<std::size_t>(n.down)];
                const double crown = (up ? n.invert_up : n.invert_down) + top;
                if (end.rim < crown && end.kind != StructureKind::Outfall)
                    say(Severity::Error, Kind::Structure, end.structure.value, "rim",
                        std::string(rule_name(Rule::RimBelowCrown)),
                        "Rim of " + element_name(project_, Kind::Structure, end.structure.value) + " is " +
                            units_.text(end.rim, Quantity::Level) + ", below the crown of " + pipe_name(project_, p) +
                            " at " + units_.text(crown, Quantity::Level) + ".",
                        "Correct the rim, or lower the pipe.", Rule::RimBelowCrown);
            }
        }
        for (const Structure& s : project_.structures)
            if (s.kind == static_cast<int>(StructureKind::Outfall) && s.tailwater_level > s.rim)
                say(Severity::Warning, Kind::Structure, s.id, "tailwater_level", "tailwater above ground",
                    "Tailwater of " + s.name + " is " + units_.text(s.tailwater_level, Quantity::Level) +
                        ", above its rim " + units_.text(s.rim, Quantity::Level) + ".",
                    "Check the datum of both levels.");
    }

    void rain() {
        for (const RainEvent& e : project_.events) {
            const std::string fault = idf_fault(e.durations, e.intensities);
            if (!fault.empty())
                say(Severity::Error, Kind::Event, e.id, "intensities", "rain table at fault",
                    "Event " + e.name + ": " + fault + ". Only known flows run in it.",
                    "Correct the table under Rain.");
            else if (e.durations.size() == 1)
                say(Severity::Warning, Kind::Event, e.id, "durations", "one duration",
                    "Event " + e.name + " has one duration: its intensity holds for every time.",
                    "Paste more durations.");
        }
    }

    void paths() {
        std::map<std::uint64_t, const StreetPath*> next;
        for (const StreetPath& p : project_.street_paths) {
            const std::string what =
                "Street path " + p.name + " from " + element_name(project_, Kind::Structure, p.from.value);
            if (!p.to)
                say(Severity::Note, Kind::StreetPath, p.id, "to", std::string(rule_name(Rule::LeavesSite)),
                    what + " leaves the site.", "Nothing needs doing if that is meant.", Rule::LeavesSite);
            const Structure* to = project_.structures.find(p.to.value);
            if (to && to->kind == static_cast<int>(StructureKind::Outfall))
                say(Severity::Error, Kind::StreetPath, p.id, "to", "street path to an outfall",
                    what + " leads to the outfall " + to->name + ": water on the street does not enter a pipe's end.",
                    "Drag its end to an inlet, or to paper where the water leaves the site.");
            if (const auto [other, fresh] = next.emplace(p.from.value, &p); !fresh)
                say(Severity::Error, Kind::StreetPath, p.id, "from", "two street paths from one structure",
                    what + " begins where " + other->second->name + " begins: water goes one way.",
                    "Delete one of them.");
        }
        // Rings: each is named once, at its member with the lowest id.
        std::map<std::uint64_t, int> seen;  // 1 on the way, 2 done
        for (const auto& [start, first] : next) {
            std::vector<const StreetPath*> way;
            const StreetPath* p = first;
            while (p && !seen[p->from.value]) {
                seen[p->from.value] = 1;
                way.push_back(p);
                const auto at = next.find(p->to.value);
                p = at == next.end() ? nullptr : at->second;
            }
            if (p && seen[p->from.value] == 1) {
                std::string names;
                bool in_ring = false;
                for (const StreetPath* w : way) {
                    in_ring |= w == p;
                    if (in_ring) names += element_name(project_, Kind::Structure, w->from.value) + " – ";
                }
                say(Severity::Error, Kind::StreetPath, p->id, "to", "street paths in a ring",
                    "Street paths run round: " + names + element_name(project_, Kind::Structure, p->from.value) + ".",
                    "Lead one of them elsewhere: drag its end.");
            }
            for (const StreetPath* w : way) seen[w->from.value] = 2;
        }
    }

    void outlines() {
        for (const Catchment& c : project_.catchments)
            if (c.outline.size() > 3 && crosses_itself(c.outline))
                say(Severity::Error, Kind::Catchment, c.id, "outline", "outline crosses itself",
                    "The outline of catchment " + c.name + " crosses itself: its area means nothing.",
                    "Select it and drag its corners apart.");
    }

    const Project& project_;
    const Network& network_;
    UnitSet units_;
    std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> data_findings(const Project& project, const Network& network) {
    return DataReview(project, network).run();
}

}  // namespace culvert
