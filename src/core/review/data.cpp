// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <map>
#include <set>

#include "core/base/contract.h"
#include "core/base/words.h"
#include "core/hydrology/land_covers.h"
#include "core/model/catchment_time.h"
#include "core/model/event_rain.h"
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
        for (const Fault& f : network_.faults) named_.emplace(f.element, f.field);
        for (std::size_t k = 0; k < kind_count; ++k)
            with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                ranges<R>();
                if constexpr (must_be_named<R>) names<R>();
            });
        references();
        outlines();
        covers();
        ratings();
        streets();
        one_point();
        abandoned();
        pipes();
        rain();
        short_times();
        flankers();
        roles();
        paths();
        buried();
        judged();
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

    /// Every value within its field's range, every needed one given. What is out of range is not used.
    template <class R>
    void ranges() {
        for (const R& row : project_.table<R>())
            for (const Field<R>& f : fields_of<R>()) {
                std::string fault;
                bool missing = false;
                if (const auto* number = std::get_if<double R::*>(&f.member)) {
                    const double v = row.*(*number);
                    missing = std::isnan(v) && needed(row, f);
                    if (!missing && in_range(f, v) && !std::is_same_v<R, Limit>) continue;
                    fault = missing ? "is not given" : range_fault(info_for(row, f), v, units_);
                } else if (std::holds_alternative<std::vector<double> R::*>(f.member) ||
                           std::holds_alternative<std::vector<Point> R::*>(f.member) ||
                           std::holds_alternative<Choice<R>>(f.member)) {
                    if constexpr (std::is_same_v<R, RainEvent>)
                        if (f.key != "role") continue;  // the table is looked at whole: rain()
                    fault = value_fault(f, get(row, f), units_);
                }
                // Compile names what stops a pipe, with what it stops.
                if (fault.empty() || named_.contains({ElementRef{kind_of<R>(), row.id}, std::string(f.key)})) continue;
                std::string what = std::string(f.label);
                if constexpr (!std::is_same_v<R, Settings>)
                    what += " of " + std::string(kind_name(kind_of<R>())) + " " +
                            element_name(project_, kind_of<R>(), row.id);
                say(Severity::Error, kind_of<R>(), row.id, std::string(f.key),
                    missing ? "value missing" : "value out of range", what + " " + fault + ".",
                    missing ? "Type it in the card." : "Correct it; it is not used as it is.");
            }
    }
    template <class R>
    bool needed(const R& row, const FieldInfo& f) const {
        if (!f.needed) return false;
        if constexpr (std::is_same_v<R, Structure>)
            return f.key != "rim" || (row.kind != StructureKind::Outfall && row.kind != StructureKind::Joint);
        if constexpr (std::is_same_v<R, Catchment>)
            return std::none_of(project_.land_covers.begin(), project_.land_covers.end(),
                                [&](const LandCover& l) { return l.catchment.value == row.id; });
        if constexpr (std::is_same_v<R, Limit>) return row.active;
        return true;
    }

    /// Kinds whose rows people tell apart by a name of their own.
    template <class R>
    static constexpr bool must_be_named =
        std::is_same_v<R, Structure> || std::is_same_v<R, Catchment> || std::is_same_v<R, RainEvent> ||
        std::is_same_v<R, Street> || std::is_same_v<R, Surface> || std::is_same_v<R, Background> ||
        std::is_same_v<R, StructureType> || std::is_same_v<R, Variant> || std::is_same_v<R, BuriedLine> ||
        std::is_same_v<R, ProfileRun> || std::is_same_v<R, Pond> || std::is_same_v<R, PondOutlet>;
    template <class R>
    void names() {
        std::map<std::string, std::uint64_t> seen;
        const std::string kind(kind_name(kind_of<R>()));
        for (const R& row : project_.table<R>()) {
            if (row.name.find_first_not_of(" \t") == std::string::npos) {
                say(Severity::Error, kind_of<R>(), row.id, "name", "no name",
                    "A " + kind + " with the id " + id_text(row.id) + " has no name.", "Give it a name of its own.");
                continue;
            }
            const auto [other, fresh] = seen.emplace(row.name, row.id);
            if (!fresh)
                say(Severity::Error, kind_of<R>(), row.id, "name", "name used twice",
                    "Two " + std::string(table_name(kind_of<R>())) + " are named " + printable(row.name) + ".",
                    "Rename one of them.");
        }
    }

    void references() {
        for (const DanglingReference& d : dangling_references(project_)) {
            const FieldInfo& f = *infos_of(d.kind)[d.field];
            if (named_.contains({ElementRef{d.kind, d.id}, std::string(f.key)})) continue;
            say(Severity::Error, d.kind, d.id, std::string(f.key), "leads nowhere",
                std::string(f.label) + " of " + std::string(kind_name(d.kind)) + " " +
                    element_name(project_, d.kind, d.id) + ": there is no " + std::string(refers_name(d.refers_to)) +
                    " with the id " + id_text(d.target) + ".",
                "Choose another, or none.");
        }
    }

    void streets() {
        for (const Street& s : project_.streets)
            if (s.line.size() < 2)
                say(Severity::Error, Kind::Street, s.id, "line", "a street without length",
                    "Street " + element_name(project_, Kind::Street, s.id) + " has " +
                        (s.line.empty() ? "no point" : "one point") + ": a street needs two.",
                    "Draw it anew, or delete it.");
            else if (s.stations.size() != s.levels.size())
                say(Severity::Error, Kind::Street, s.id, "levels", "profile at fault",
                    "Street " + element_name(project_, Kind::Street, s.id) + " has " +
                        std::to_string(s.stations.size()) + " stations but " + std::to_string(s.levels.size()) +
                        " levels.",
                    "Paste its profile again.");
    }

    /// The design events of the minor and of the major system are one each.
    void roles() {
        for (const EventRole role : {EventRole::Minor, EventRole::Major}) {
            const RainEvent* first = nullptr;
            for (const RainEvent* e : events_in_order(project_)) {
                if (e->role != role) continue;
                if (first)
                    say(Severity::Error, Kind::Event, e->id, "role", "two events with one role",
                        "Events " + element_name(project_, Kind::Event, first->id) + " and " +
                            element_name(project_, Kind::Event, e->id) + " are both the design event of the " +
                            (role == EventRole::Minor ? "minor" : "major") +
                            " system: " + element_name(project_, Kind::Event, first->id) + " is taken.",
                        "Set the role of one of them to \"other\".");
                else first = e;
            }
        }
    }

    void one_point() {
        std::map<std::pair<double, double>, const Structure*> at;
        for (const Structure& s : project_.structures) {
            if (!placed(s)) continue;
            const auto [other, fresh] = at.emplace(std::pair{s.x, s.y}, &s);
            if (!fresh)
                say(Severity::Warning, Kind::Structure, s.id, "x", "two at one point",
                    "Structures " + other->second->name + " and " + s.name + " stand at one point.",
                    "Move one of them.");
        }
    }

    /// An abandoned structure to which something in use still leads: its water is counted as if it stood.
    void abandoned() {
        std::map<std::uint64_t, std::vector<std::string>> users;
        for (const Structure& s : project_.structures)
            if (s.status == Status::Abandoned) users[s.id];
        if (users.empty()) return;
        const auto note = [&](StructureId at, Kind kind, std::uint64_t id) {
            if (const auto it = users.find(at.value); it != users.end())
                it->second.push_back(std::string(kind_name(kind)) + " " + element_name(project_, kind, id));
        };
        for (const Catchment& c : project_.catchments) note(target_of(project_, c), Kind::Catchment, c.id);
        for (const StreetPath& p : project_.street_paths) note(p.to, Kind::StreetPath, p.id);
        for (const Pipe& p : project_.pipes)
            if (p.status != Status::Abandoned)
                for (const StructureId end : {p.from, p.to}) note(end, Kind::Pipe, p.id);
        for (const PondOutlet& o : project_.outlets) note(o.to, Kind::PondOutlet, o.id);
        for (const auto& [id, list] : users) {
            if (list.empty()) continue;
            std::string words;
            for (std::size_t i = 0; i < std::min<std::size_t>(list.size(), 4); ++i) words += (i ? ", " : "") + list[i];
            if (list.size() > 4) words += " and " + std::to_string(list.size() - 4) + " more";
            const std::string& name = project_.structures.find(id)->name;
            say(Severity::Error, Kind::Structure, id, "status", "abandoned but in use",
                name + " is abandoned, yet in use by " + words + ". It is counted as if it stood.",
                "Lead them elsewhere, or set its status to existing.");
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
            const int link = network_.link_of(PipeId{p.id});
            if (link == no_link) continue;
            const Link& n = nth(network_.links, link);
            if (n.main && nth(network_.nodes, n.from).structure.value != p.from.value && n.slope > 0 &&
                p.status != Status::Abandoned)
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
                const Node& end = nth(network_.nodes, up ? n.from : n.to);
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
            if (s.kind == StructureKind::Outfall && s.tailwater_level > s.rim)
                say(Severity::Warning, Kind::Structure, s.id, "tailwater_level", "tailwater above ground",
                    "Tailwater of " + s.name + " is " + units_.text(s.tailwater_level, Quantity::Level) +
                        ", above its rim " + units_.text(s.rim, Quantity::Level) + ".",
                    "Check the datum of both levels.");
    }

    void rain() {
        for (const RainEvent& e : project_.events) {
            const std::string fault = event_rain_fault(e);
            if (!fault.empty() && e.given != RainGiven::Intensities)
                say(Severity::Error, Kind::Event, e.id, e.given == RainGiven::OwnPattern ? "pattern_shares" : "depth",
                    "storm at fault", "Event " + e.name + ": " + fault + ". Only known flows run in it.",
                    "Complete its depth, its length and its pattern, or give it by intensities.");
            else if (!fault.empty())
                say(Severity::Error, Kind::Event, e.id, "intensities", "rain table at fault",
                    "Event " + e.name + ": " + fault + ". Only known flows run in it.",
                    "Correct the table under Rain.");
            else if (e.given == RainGiven::Intensities && e.durations.size() == 1)
                say(Severity::Warning, Kind::Event, e.id, "durations", "one duration",
                    "Event " + e.name + " has one duration: its intensity holds for every time.",
                    "Paste more durations.");
        }
        // A rarer event does not rain less; two events of one return period are mistaken for one another.
        const auto events = events_in_order(project_);
        for (std::size_t i = 1; i < events.size(); ++i) {
            const RainEvent &common = *events[i - 1], &rare = *events[i];
            if (common.given == rare.given && common.return_period == rare.return_period)
                say(Severity::Warning, Kind::Event, rare.id, "return_period", "two events with one return period",
                    "Events " + common.name + " and " + rare.name + " both have a return period of " +
                        units_.text(rare.return_period, Quantity::Years) + ".",
                    "Correct one of them, or delete it.");
            if (!(common.return_period < rare.return_period) || common.given != rare.given) continue;
            const EventRainTable a = rain_table_of(common), b = rain_table_of(rare);
            for (std::size_t k = 0; k < a.durations.size(); ++k) {
                const auto at = std::find(b.durations.begin(), b.durations.end(), a.durations[k]);
                if (at == b.durations.end()) continue;
                const double less = nth(b.intensities, at - b.durations.begin());
                if (less >= a.intensities[k] * (1 - 1e-9)) continue;
                say(Severity::Warning, Kind::Event, rare.id, "intensities", "rarer event with less rain",
                    "Event " + rare.name + " brings " + units_.text(less, Quantity::Intensity) + " at " +
                        units_.text(a.durations[k], Quantity::Duration) + ", the commoner " + common.name + " " +
                        units_.text(a.intensities[k], Quantity::Intensity) + ".",
                    "Check the columns of the table: return periods may be out of order.");
                break;
            }
        }
    }

    /// Times shorter than the least one, which is taken instead.
    void short_times() {
        constexpr std::size_t most_named = 10;
        const double least = usable(project_.settings(), &Settings::least_time, not_given);
        struct Short {
            ElementRef element;
            double time;
        };
        std::vector<Short> found;
        const IdfCurve rain = rain_of_times(project_);
        for (const Catchment& c : project_.catchments)
            if (const double t = concentration_time(project_, c, rain).time; t < least)
                found.push_back({{Kind::Catchment, c.id}, t});
        for (const LandCover& l : project_.land_covers)
            if (const double t = usable(l, &LandCover::time, not_given); t < least)
                found.push_back({{Kind::LandCover, l.id}, t});
        const std::string taken = "the least time of " + units_.text(least, Quantity::Duration) + " is taken.",
                          meant = "Nothing needs doing if that is meant; the least time stands among the settings.";
        if (found.size() > most_named)
            say(Severity::Note, Kind::Settings, settings_id, "least_time", "times below the least",
                std::to_string(found.size()) + " catchments and land covers have a shorter time: " + taken, meant);
        else
            for (const Short& f : found)
                say(Severity::Note, f.element.kind, f.element.id, "time", "time below the least",
                    element_name(project_, f.element.kind, f.element.id) + " has a time of " +
                        units_.text(f.time, Quantity::Duration) + ": " + taken,
                    meant);
    }

    /// Low points of streets that ask for flankers: an inlet on either side that the water standing there would reach.
    void flankers() {
        std::map<std::uint64_t, std::vector<const Structure*>> on;
        for (const StreetInlet& inlet : network_.inlets) {
            const Structure* s = project_.structures.find(nth(network_.nodes, inlet.node).structure.value);
            const Street* street = s ? project_.streets.find(s->street.value) : nullptr;
            if (street && street->flankers && !std::isnan(s->station)) on[street->id].push_back(s);
        }
        for (const StreetInlet& inlet : network_.inlets) {
            const Structure* sag = project_.structures.find(nth(network_.nodes, inlet.node).structure.value);
            const auto same = sag && inlet.sag ? on.find(sag->street.value) : on.end();
            if (!sag || same == on.end() || std::isnan(sag->station)) continue;
            bool before = false, after = false;
            for (const Structure* s : same->second) {
                if (s == sag || (s->offset < 0) != (sag->offset < 0) || !(s->rim - sag->rim < inlet.curb)) continue;
                before |= s->station < sag->station;
                after |= s->station > sag->station;
            }
            if (!before || !after)
                say(Severity::Warning, Kind::Structure, sag->id, "street", "low point without flankers",
                    "Inlet " + sag->name + " stands in a low point of " +
                        project_.streets.find(sag->street.value)->name + ", which asks for flankers: there is none " +
                        (before  ? "after it"
                         : after ? "before it"
                                 : "on either side") +
                        " within the height of the curb above it.",
                    "Space inlets along the street again, or place one there.");
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
            if (to && to->kind == StructureKind::Outfall)
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

    /// Land covers that do not make their catchment, and coefficients far from what is usual for their cover.
    void covers() {
        std::map<std::uint64_t, double> sums;
        for (const LandCover& l : project_.land_covers) {
            if (l.area > 0) sums[l.catchment.value] += l.area;
            const LandCoverKind* kind = land_cover_kind(l.name);
            constexpr double slack = 0.1;  // of C: ranges are guides
            if (kind && l.coefficient >= 0 && l.coefficient <= 1 &&
                (l.coefficient < kind->c_low - slack || l.coefficient > kind->c_high + slack))
                say(Severity::Warning, Kind::LandCover, l.id, "coefficient", "unusual runoff C",
                    "Land cover " + l.name + " of catchment " +
                        element_name(project_, Kind::Catchment, l.catchment.value) + ": C " +
                        units_.number(l.coefficient, Quantity::Ratio) + ", usually " +
                        units_.number(kind->c_low, Quantity::Ratio) + " to " +
                        units_.number(kind->c_high, Quantity::Ratio) + ".",
                    "Check it, or give the cover a name of its own.");
        }
        for (const Catchment& c : project_.catchments) {
            const auto sum = sums.find(c.id);
            if (sum == sums.end() || c.outline.size() < 3) continue;
            const double drawn = area(c.outline);
            if (drawn > 0 && std::abs(sum->second / drawn - 1) > 0.02)
                say(Severity::Warning, Kind::Catchment, c.id, "area", "land covers do not add up",
                    "Catchment " + c.name + ": its land covers make " + units_.text(sum->second, Quantity::Area) +
                        ", its outline " + units_.text(drawn, Quantity::Area) + ".",
                    "Correct the area of one of them.");
        }
    }

    /// Rating curves of inlets.
    void ratings() {
        for (const StructureType& t : project_.structure_types) {
            if (t.inlet != InletKind::Rated) continue;
            std::string why;
            if (t.rating_approach.empty() || t.rating_approach.size() != t.rating_captured.size())
                why = "it needs as many captured as approach flows";
            else if (!std::is_sorted(t.rating_approach.begin(), t.rating_approach.end()))
                why = "its approach flows must rise";
            else if (!std::is_sorted(t.rating_captured.begin(), t.rating_captured.end()))
                why = "its captured flow falls where more comes";
            else
                for (std::size_t i = 0; i < t.rating_approach.size(); ++i)
                    if (t.rating_captured[i] > t.rating_approach[i] * (1 + 1e-9)) why = "it takes more than comes";
            if (!why.empty())
                say(Severity::Error, Kind::StructureType, t.id, "rating_captured", "rating at fault",
                    "Type " + t.name + ": " + why + ".", "Correct the curve.");
        }
    }

    void buried() {
        for (const BuriedLine& l : project_.buried_lines) {
            if (l.line.size() < 2)
                say(Severity::Error, Kind::BuriedLine, l.id, "line", "a line without length",
                    "Buried line " + printable(l.name) + " has " + (l.line.empty() ? "no point" : "one point") +
                        ": it needs two.",
                    "Draw it anew, or delete it.");
            else if (l.levels.size() > 1 && l.levels.size() != l.line.size())
                say(Severity::Error, Kind::BuriedLine, l.id, "levels", "levels at fault",
                    "Buried line " + printable(l.name) + " has " + std::to_string(l.line.size()) + " points but " +
                        std::to_string(l.levels.size()) + " levels.",
                    "Give one level for each point, or one for all.");
        }
        std::set<LineKind> seen;
        for (const Clearance& c : project_.clearances)
            if (!seen.insert(c.kind).second)
                say(Severity::Error, Kind::Clearance, c.id, "kind", "two clearances of one kind",
                    "There is more than one " + element_name(project_, Kind::Clearance, c.id) + ": the last is taken.",
                    "Delete one of them.");
    }

    /// Rows that say how findings are judged, and what outfalls meet.
    void judged() {
        for (const FindingRank& r : project_.finding_ranks)
            if (r.finding.empty())
                say(Severity::Error, Kind::FindingRank, r.id, "finding", "no finding named",
                    "A rank of findings does not say of which.", "Name the finding, or delete the row.");
        for (const AcceptedFinding& a : project_.accepted_findings)
            if (a.reason.find_first_not_of(" \t") == std::string::npos)
                say(Severity::Error, Kind::AcceptedFinding, a.id, "reason", "accepted without a reason",
                    "\"" + printable(a.finding) + "\" is accepted without a reason.", "Give the reason.");
        for (const OutfallLevel& l : project_.outfall_levels) {
            const Structure* s = project_.structures.find(l.structure.value);
            if (s && s->kind != StructureKind::Outfall)
                say(Severity::Error, Kind::OutfallLevel, l.id, "structure", "not an outfall",
                    printable(s->name) + " has a level for one event, but is no outfall.",
                    "Give the level to an outfall, or delete it.");
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
    std::set<std::pair<ElementRef, std::string>> named_;  ///< values that compile found fault with
};

}  // namespace

std::vector<Finding> data_findings(const Project& project, const Network& network) {
    return DataReview(project, network).run();
}

}  // namespace culvert
