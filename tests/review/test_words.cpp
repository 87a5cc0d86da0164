// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <set>

#include "core/network/through_time.h"
#include "core/review/rules.h"
#include "support/networks.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using culvert::testing::PondSite;

namespace {

/// The first finding of a rule in an event, of an element if one is named, with its words.
std::optional<Finding> finding(const Project& p, Rule rule, const Results& results, std::size_t event = 0,
                               std::uint64_t element = 0) {
    for (Finding f : review(p, *results[event]).findings)
        if (f.check.rule == rule && (!element || f.element.id == element)) {
            word(p, *results[event], f);
            return f;
        }
    return {};
}
std::string detail(const Project& p, Rule rule, const Results& results, std::size_t event = 0,
                   std::uint64_t element = 0) {
    const auto f = finding(p, rule, results, event, element);
    return f ? f->detail : std::string("none");
}
/// Of the first inlet of the street.
std::string at_inlet(const Project& p, Rule rule) { return detail(p, rule, solve(p), 0, 1); }

}  // namespace

/// The words of findings: each names the numbers it stands on, in the project's units.
class TestWords : public QObject {
    Q_OBJECT
  private slots:
    void ponds_name_their_levels_and_flows() {
        PondSite s;
        s.set(Kind::Settings, settings_id, "least_freeboard", 2.0);
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            s.set(Kind::Settings, settings_id, "system", static_cast<int>(system));
            const UnitSet u = units_of(s.project);
            const auto r = solve(s.project);
            const PondSummary& p = r[1]->ponds[0];
            const auto level = [&](double v) { return u.text(v, Quantity::Level); };
            QCOMPARE(detail(s.project, Rule::PondFreeboard, r, 1),
                     "highest level " + level(p.level) + ", crest " + level(42.6) + ": freeboard " +
                         u.text(42.6 - p.level, Quantity::Length) + ", at least " + u.text(2, Quantity::Length));
        }
        s.set(Kind::Settings, settings_id, "system", static_cast<int>(UnitSystem::Si));
        const UnitSet u(UnitSystem::Si);
        const auto flow = [&](double v) { return u.text(v, Quantity::Flow); };
        for (const Release& row : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
            s.set(Kind::Release, row.id, "flow", 0.02);
        auto r = solve(s.project);
        QCOMPARE(detail(s.project, Rule::ReleaseExceeded, r, 0), flow(r[0]->ponds[0].peak_outflow) +
                                                                     " leave, allowed " + flow(0.02) + " (" +
                                                                     flow(r[0]->ponds[0].peak_inflow) + " come in)");
        // Water above the top of the curve.
        PondSite low;
        low.set(Kind::Pond, low.pond_row, "depth", 0.4);
        r = solve(low.project);
        QCOMPARE(detail(low.project, Rule::CurveShort, r, 1),
                 "the water rises to " + u.text(r[1]->ponds[0].level, Quantity::Level) + ", its space is known up to " +
                     u.text(40.4, Quantity::Level) + ": above that it is taken straight up");
        // Two overflows, of which one runs; then both.
        PondSite over;
        over.set(Kind::PondOutlet, over.high, "overflow", true);
        over.set(Kind::PondOutlet, over.high, "level", 40.1);
        r = solve(over.project);
        const std::size_t ways = r[0]->network->through_time->ponds[0].ways.size();
        QCOMPARE(ways, std::size_t{3});
        const auto peak = [&](std::uint64_t row) {
            for (std::size_t w = 0; w < ways; ++w)
                if (r[0]->network->through_time->ponds[0].ways[w].row == row) return r[0]->ponds[0].way_peaks[w];
            return not_given;
        };
        QCOMPARE(peak(over.spill), 0.0);
        QCOMPARE(detail(over.project, Rule::OverflowRuns, r, 0),
                 flow(peak(over.high)) + " run by high, which is meant for rare events");
        over.set(Kind::PondOutlet, over.spill, "level", 40.2);
        r = solve(over.project);
        const std::string both = detail(over.project, Rule::OverflowRuns, r, 0);
        QVERIFY2(both.starts_with(flow(std::max(peak(over.high), peak(over.spill))) + " run by "), both.c_str());
        QVERIFY2(both.find("high, spill, which") != std::string::npos ||
                     both.find("spill, high, which") != std::string::npos,
                 both.c_str());
        PondSite wide;
        wide.set(Kind::PondOutlet, wide.low, "size", 2.0);
        wide.set(Kind::Pond, wide.pond_row, "length", 3.0);
        wide.set(Kind::Pond, wide.pond_row, "width", 3.0);
        r = solve(wide.project);
        QCOMPARE(detail(wide.project, Rule::NoAttenuation, r, 0),
                 flow(r[0]->ponds[0].peak_inflow) + " come in, " + flow(r[0]->ponds[0].peak_outflow) + " leave");
    }
    void bypass_says_where_it_goes() {
        const UnitSet u(UnitSystem::Si);
        Project p = street();
        const auto passed = [&](const Project& q) { return u.text(::at(q).bypass, Quantity::Flow); };
        QVERIFY(::at(p).bypass > 1e-3);
        QCOMPARE(at_inlet(p, Rule::BypassStays), std::string("none"));
        Project off = p;
        off.street_paths.change(31)->to = {};
        QCOMPARE(at_inlet(off, Rule::BypassLeaves), passed(off) + " pass the inlet and leave the site");
        Project none = p;
        none.street_paths.erase(31);
        QCOMPARE(at_inlet(none, Rule::BypassStays),
                 passed(none) + " pass the inlet, but no street path leads on: they stay in the pipe below it");
        Project much = p;
        much.structures.change(1)->known_flow = 0;
        much.catchments.change(21)->area = 4e5;
        const double over = ::at(much).over_crown;
        QVERIFY(over > 0.01);
        QCOMPARE(at_inlet(much, Rule::OverCrown),
                 u.text(over, Quantity::Flow) + " run over the crown to the other side of the street");
    }
    void pipes_and_levels_name_value_and_limit() {
        const UnitSet u(UnitSystem::Si);
        Project p = street();
        p.structures.change(1)->known_flow = 1.5;
        auto r = solve(p);
        const auto link = [&](std::uint64_t id) {
            return static_cast<std::size_t>(r[0]->network->link_of(PipeId{id}));
        };
        const auto node = [&](std::uint64_t id) {
            return static_cast<std::size_t>(r[0]->network->node_of(StructureId{id}));
        };
        const auto f = finding(p, Rule::MostFlowRatio, r, 0, 12);
        QVERIFY(f && f->element.id == 12);
        const double q = r[0]->links[link(12)].flow.flow, capacity = r[0]->network->links[link(12)].capacity;
        QCOMPARE(f->detail, "flow " + u.text(q, Quantity::Flow) + ", capacity " + u.text(capacity, Quantity::Flow) +
                                ": ratio " + u.number(q / capacity, Quantity::Ratio) + ", allowed " +
                                u.number(f->check.limit, Quantity::Ratio));
        Project adverse = p;
        std::swap(adverse.pipes.change(12)->invert_from, adverse.pipes.change(12)->invert_to);
        const auto up = finding(adverse, Rule::MostFlowRatio, solve(adverse), 0, 12);
        QVERIFY(up && up->detail.find("but no full-flow capacity: the slope is ") != std::string::npos);
        const auto flood = finding(p, Rule::Flooding, r, 0, 1);
        QVERIFY(flood && flood->element.id == 1);
        const double level = r[0]->nodes[node(1)].level.level;
        QCOMPARE(flood->detail, "HGL " + u.text(level, Quantity::Level) + ", rim " + u.text(101, Quantity::Level) +
                                    ": " + u.text(level - 101, Quantity::Length) + " above the rim");
        p = with_setting(p, "flooded_level", FloodedLevel::HeldAtRim);
        r = solve(p);
        QVERIFY(finding(p, Rule::Flooding, r)->detail.ends_with(" above the rim (held at the rim)"));
        // A limit of its own, and a finding that was accepted, then grew worse.
        Project own = street();
        own.structures.change(1)->known_flow = 0.5;
        Limit l;
        l.id = 800;
        l.kind = LimitKind::MostFlowRatio;
        l.element = 12;
        l.value = 0.1;
        own.limits.insert(l);
        r = solve(own);
        auto ratio = finding(own, Rule::MostFlowRatio, r, 0, 12);
        QVERIFY(ratio && ratio->detail.ends_with(", allowed " + u.number(0.1, Quantity::Ratio) + " (its own limit)"));
        AcceptedFinding a;
        a.id = 801;
        a.finding = std::string(rule_name(Rule::MostFlowRatio));
        a.element = 12;
        a.event = {5};
        a.value = ratio->check.value;
        a.reason = "built before";
        own.accepted_findings.insert(a);
        QVERIFY(
            finding(own, Rule::MostFlowRatio, r, 0, 12)->detail.ends_with("(its own limit); accepted: built before"));
        own.accepted_findings.change(801)->by = "M. Reed";
        QVERIFY(finding(own, Rule::MostFlowRatio, r, 0, 12)->detail.ends_with("; accepted by M. Reed: built before"));
        own.accepted_findings.change(801)->value = 0.2;
        QVERIFY(finding(own, Rule::MostFlowRatio, r, 0, 12)
                    ->detail.ends_with("; accepted at " + u.text(0.2, Quantity::Ratio) + ", worse since"));
    }
    /// Whatever is found in random projects: words that are whole, and name the value that was checked.
    void words_are_whole() {
        std::set<Rule> seen;
        for (unsigned seed = 1; seed <= 30; ++seed) {
            const Project p = testing::random_project({.pipes = 40, .seed = seed, .events = 2});
            const UnitSet u = units_of(p);
            for (const auto& r : solve(p))
                for (Finding f : review(p, *r).findings) {
                    word(p, *r, f);
                    const QString all = QString::fromStdString(f.title + "|" + f.detail + "|" + f.remedy);
                    QVERIFY2(!f.title.empty() && !f.detail.empty() && !f.remedy.empty(), qPrintable(all));
                    QVERIFY2(!all.contains("nan") && !all.contains("inf") && !all.contains('{') && !all.contains("  "),
                             qPrintable(all));
                    seen.insert(f.check.rule);
                    const Check& c = f.check;
                    if (c.rule == Rule::Flooding || c.rule == Rule::Data || f.index < 0 || !rule_info(c.rule).held ||
                        !std::isfinite(c.value))
                        continue;
                    const std::string value = c.rule == Rule::MostFlowRatio && !(c.value < 1e6)
                                                  ? std::string("no full-flow capacity")
                                                  : u.number(std::abs(c.value), c.quantity);
                    QVERIFY2(
                        f.detail.find(value) != std::string::npos || f.detail.find("no full-flow") != std::string::npos,
                        qPrintable(all + QString::fromStdString(" lacks " + value)));
                }
        }
        QVERIFY2(seen.size() >= 12, qPrintable(QString::number(seen.size())));
    }
};
QTEST_APPLESS_MAIN(TestWords)
#include "test_words.moc"
