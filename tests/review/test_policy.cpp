// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/hydraulics/uniform_flow.h"
#include "core/review/policy.h"
#include "support/small_street.h"

namespace {

/// A3 is too small for what comes: its flow ratio is beyond the limit.
Project overloaded(double flow = 0.4) {
    Project p = street();
    p.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
    p.structures.change(1)->known_flow = flow;
    for (const std::uint64_t id : {11, 12}) p.pipes.change(id)->size = 0.3;
    return p;
}
const Finding* find(const Review& r, Rule rule, std::uint64_t element) {
    for (const Finding& f : r.findings)
        if (f.check.rule == rule && f.element.id == element) return &f;
    return nullptr;
}
Review reviewed(const Project& p) { return review(p, *solve(p).at(0)); }

}  // namespace

/// Findings accepted with a reason, findings ranked otherwise, pipes larger than needed.
class TestPolicy : public QObject {
    Q_OBJECT
  private slots:
    void an_accepted_finding_stays_as_a_note_until_it_is_worse() {
        Project p = overloaded();
        Review r = reviewed(p);
        const Finding* f = find(r, Rule::MostFlowRatio, 11);
        QVERIFY(f && f->check.verdict == Verdict::Beyond && f->severity == Severity::Error);
        const double ratio = f->check.value;
        const auto beyond = [&] { return beyond_keys(p, *solve(p).at(0)).size(); };
        const std::size_t before = beyond();
        apply(p, accept_findings(p, {*f}, "replaced in phase 2", "checker", "2026-11-26"));
        QCOMPARE(p.accepted_findings.size(), std::size_t{1});
        QCOMPARE(p.accepted_findings.begin()->value, ratio);
        QCOMPARE(beyond(), before - 1);
        r = reviewed(p);
        f = find(r, Rule::MostFlowRatio, 11);
        QVERIFY(f && f->accepted && f->severity == Severity::Note && f->check.verdict == Verdict::Near);
        Finding said = *f;
        word(p, *solve(p).at(0), said);
        QVERIFY(QString::fromStdString(said.detail).contains("accepted by checker: replaced in phase 2"));
        // Better is still accepted, worse is not.
        p.structures.change(1)->known_flow = 0.39;
        r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->accepted);
        p.structures.change(1)->known_flow = 0.42;
        r = reviewed(p);
        f = find(r, Rule::MostFlowRatio, 11);
        QVERIFY(!f->accepted && f->reopened && f->severity == Severity::Error && f->check.verdict == Verdict::Beyond);
        said = *f;
        word(p, *solve(p).at(0), said);
        QVERIFY(QString::fromStdString(said.detail).contains("worse since"));
        // Accepted again at the new value: one row still. Opened again: none.
        apply(p, accept_findings(p, {*f}, "so be it", "", ""));
        QCOMPARE(p.accepted_findings.size(), std::size_t{1});
        r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->accepted);
        apply(p, reopen_findings(p, {*find(r, Rule::MostFlowRatio, 11)}));
        QVERIFY(p.accepted_findings.empty());
        r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->check.verdict == Verdict::Beyond);
    }
    /// Opened again by more than a thousandth of what was accepted, and of small values by more than a ten-thousandth.
    void worse_is_more_than_a_solve_may_move() {
        for (const bool at_most : {true, false})
            for (const auto& [accepted, moved, holds] : {std::tuple{50.0, 0.04, true},
                                                         {50.0, 0.06, false},
                                                         {-50.0, 0.04, true},
                                                         {-50.0, 0.06, false},
                                                         {0.01, 0.00009, true},
                                                         {0.01, 0.00011, false},
                                                         {0.0, 0.00009, true},
                                                         {0.0, 0.00011, false}}) {
                Project p = overloaded();
                AcceptedFinding row;
                row.id = 900;
                row.finding = "a";
                row.element = 11;
                row.event = {5};
                row.value = accepted;
                p.accepted_findings.insert(row);
                const FindingPolicy policy(p);
                Check c;
                c.at_most = at_most;
                c.verdict = Verdict::Beyond;
                for (const double way : {1.0, -1.0}) {
                    c.value = accepted + way * moved;
                    const bool worse = (way > 0) == at_most && !holds;
                    const auto out = policy.of("a", "a", {Kind::Pipe, 11}, {5}, c, Severity::Error);
                    QCOMPARE(out.reopened, worse ? std::uint64_t{900} : std::uint64_t{0});
                    QCOMPARE(out.accepted, worse ? std::uint64_t{0} : std::uint64_t{900});
                }
            }
    }
    /// What is accepted at one pipe, or in one event, is accepted there only; with the element the row goes.
    void an_acceptance_holds_where_it_was_given() {
        Project p = overloaded();
        const Review r = reviewed(p);
        const Finding* f = find(r, Rule::MostFlowRatio, 11);
        QVERIFY(find(r, Rule::MostFlowRatio, 12)->check.verdict == Verdict::Beyond);
        apply(p, accept_findings(p, {*f}, "x", "", ""));
        QVERIFY(!find(reviewed(p), Rule::MostFlowRatio, 12)->accepted);
        const std::uint64_t row = p.accepted_findings.begin()->id;
        p.accepted_findings.change(row)->event = {999};
        QVERIFY(!find(reviewed(p), Rule::MostFlowRatio, 11)->accepted);
        Editing e(p, "");
        e.remove(Kind::Pipe, 11);
        QVERIFY(e.now().accepted_findings.empty());
    }
    void choice_finding_rank_rank() {
        Project p = overloaded();
        const std::string name(rule_name(Rule::MostFlowRatio));
        apply(p, rank_finding(p, name, RankedAs::Warning));
        Review r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->severity == Severity::Warning);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->check.verdict == Verdict::Near);
        apply(p, rank_finding(p, name, RankedAs::Note));
        r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->severity == Severity::Note);
        apply(p, rank_finding(p, name, RankedAs::Off));
        QCOMPARE(p.finding_ranks.size(), std::size_t{1});
        r = reviewed(p);
        QVERIFY(!find(r, Rule::MostFlowRatio, 11));
        for (const FindingKey& k : beyond_keys(p, *solve(p).at(0))) QVERIFY(std::get<0>(k) != Rule::MostFlowRatio);
        apply(p, rank_finding(p, name, {}));
        QVERIFY(p.finding_ranks.empty());
        r = reviewed(p);
        QVERIFY(find(r, Rule::MostFlowRatio, 11)->severity == Severity::Error);
    }
    void the_verdicts_follow() {
        Project p = overloaded();
        const auto result = solve(p).at(0);
        Review r = review(p, *result);
        std::vector<Finding> all;
        for (const Finding& f : r.findings)
            if (f.element.id == 12 && f.check.verdict == Verdict::Beyond) all.push_back(f);
        QVERIFY(!all.empty());
        QVERIFY(r.of(*result->network, {Kind::Pipe, 12}) == Verdict::Beyond);
        apply(p, accept_findings(p, all, "x", "", ""));
        r = review(p, *result);
        QVERIFY(r.of(*result->network, {Kind::Pipe, 12}) == Verdict::Near);
        QVERIFY(r.verdict == Verdict::Beyond);  // the other pipe
    }
    void faults_of_the_data_are_accepted_too() {
        Project p = overloaded();
        Structure s;
        s.id = 40;
        s.name = "Z9";
        s.x = s.y = 500;
        s.rim = 100;
        p.structures.insert(s);
        auto findings = culvert::data_findings(p, compile(p));
        const auto lone =
            std::find_if(findings.begin(), findings.end(), [](auto& f) { return f.title == "not connected"; });
        QVERIFY(lone != findings.end());
        apply(p, accept_findings(p, {*lone}, "comes with phase 2", "", ""));
        findings = culvert::data_findings(p, compile(p));
        FindingPolicy(p).apply(findings);
        for (const Finding& f : findings)
            if (f.title == "not connected") QVERIFY(f.accepted && f.severity == Severity::Note);
    }

    /// 600 mm where 450 mm would do, against the capacity by Manning; never below what enters, never the locked.
    void a_pipe_larger_than_needed_is_named() {
        Project p = street();
        p.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        p.structures.change(1)->known_flow = 0.05;
        for (const std::uint64_t id : {11, 12}) {
            Pipe& q = *p.pipes.change(id);
            q.material = "concrete";
            q.size = 0.6;
        }
        p.events.change(p.events.begin()->id)->role = EventRole::Minor;
        const auto oversized = [&](std::uint64_t id) { return find(reviewed(p), Rule::Oversized, id) != nullptr; };
        QVERIFY(oversized(11));
        const Review first = reviewed(p);
        const Check check = find(first, Rule::Oversized, 11)->check;
        QVERIFY(check.quantity == Quantity::Size && check.value == 0.6 && check.limit < 0.6);
        QVERIFY(!oversized(12));  // A1–A2 enters it with the same size
        p.pipes.change(11)->size_locked = true;
        QVERIFY(!oversized(11));
        p.pipes.change(11)->size_locked = false;
        p.structures.change(1)->known_flow = 0.9 * full_capacity(Circular{0.525}, 0.013, 0.01);
        const Review r = reviewed(p);
        const auto solved = solve(p).at(0);
        const double slope = solved->network->links.at(0).slope, flow = solved->links.at(0).flow.flow;
        if (const Finding* f = find(r, Rule::Oversized, 11))
            QVERIFY(f->check.quantity == Quantity::Size && f->check.value > f->check.limit);
        QCOMPARE(find(r, Rule::Oversized, 11) != nullptr, flow <= full_capacity(Circular{0.525}, 0.013, slope));
        p.structures.change(1)->known_flow = 0.99 * full_capacity(Circular{0.6}, 0.013, slope);
        QVERIFY(!oversized(11));
    }
};
QTEST_GUILESS_MAIN(TestPolicy)
#include "test_policy.moc"
