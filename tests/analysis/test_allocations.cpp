// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <atomic>
#include <cstdlib>
#include <new>

#include "core/analysis/grade_line.h"
#include "core/analysis/rational.h"
#include "core/analysis/solver.h"
#include "core/review/review.h"
#include "support/networks.h"

namespace {
std::atomic<long> allocations = 0;
}
void* operator new(std::size_t size) {
    ++allocations;
    if (void* p = std::malloc(size ? size : 1)) return p;
    throw std::bad_alloc();
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    ++allocations;
    return std::malloc(size ? size : 1);
}
void operator delete(void* p) noexcept { std::free(p); }
void operator delete(void* p, std::size_t) noexcept { std::free(p); }

using namespace culvert;

/// Hot paths allocate nothing per pipe; results stay small.
class TestAllocations : public QObject {
    Q_OBJECT
  private slots:
    void flows_and_grade_lines_allocate_nothing() {
        for (const int pipes : {50, 500, 2000}) {
            const Project p = testing::random_project({.pipes = pipes, .seed = 9, .events = 1});
            const Network n = compile(p);
            const EventRain rain = rain_of(*p.events.begin());
            Summaries s(n);
            const long before = allocations;
            solve_flows(n, rain, s);
            solve_levels(n, s);
            QCOMPARE(allocations.load() - before, 0L);
        }
    }
    void checks_allocate_nothing_per_node() {
        const Project p = testing::random_project({.pipes = 500, .seed = 9, .events = 1});
        const auto r = solve(p)[0];
        const LimitTable limits(p);
        const long before = allocations;
        (void)review(p, *r);
        // Findings are kept in one growing list; the checks themselves cost none.
        QVERIFY2(allocations.load() - before < 200, qPrintable(QString::number(allocations.load() - before)));
    }
    void results_are_small() { QVERIFY(sizeof(NodeResult) + sizeof(LinkResult) < 400); }
    void a_snapshot_allocates_next_to_nothing() {
        const Project p = testing::random_project({.pipes = 2000, .seed = 9, .events = 1});
        const long before = allocations;
        const Project copy = p;
        QVERIFY(allocations.load() - before <= 2);
        QVERIFY(copy == p);
    }
};
QTEST_APPLESS_MAIN(TestAllocations)
#include "test_allocations.moc"
