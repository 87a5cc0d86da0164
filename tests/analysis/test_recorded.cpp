// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <cstring>
#include <fstream>

#include "core/analysis/solver.h"
#include "support/networks.h"
#include "support/seen.h"

using namespace culvert;

namespace {

/// 64-bit FNV-1a over the bits of numbers.
class Bits {
  public:
    void add(double v) {
        if (v != v) v = std::numeric_limits<double>::quiet_NaN();  // one NaN
        std::uint64_t bits = 0;
        std::memcpy(&bits, &v, sizeof bits);
        for (int k = 0; k < 8; ++k, bits >>= 8) hash_ = (hash_ ^ (bits & 255)) * 1099511628211ULL;
    }
    [[nodiscard]] std::string text() const { return id_text(hash_); }

  private:
    std::uint64_t hash_ = 14695981039346656037ULL;
};

/// What the mathematical functions of this machine give: their last bits differ between processors and libraries.
std::string functions() {
    Bits b;
    for (int i = 1; i <= 2000; ++i) {
        const double x = i * 0.0137;
        for (const double v : {std::exp(x / 10), std::log(x), std::sin(x), std::cos(x), std::cbrt(x), std::pow(x, 0.6),
                               std::asin(x / 40), std::sqrt(x), std::hypot(x, 1 / x)})
            b.add(v);
    }
    return b.text();
}

/// All numbers of a network's results, by structure, so that they do not depend on how nodes are numbered.
std::string results(unsigned seed) {
    const Project p = culvert::testing::random_project(
        {.pipes = 4 + static_cast<int>(seed % 60), .seed = 9000 + seed, .events = 2, .awkward = seed % 4 != 0});
    Bits b;
    for (const auto& r : solve(p))
        for (const Structure& s : p.structures) {
            const int i = r->network->node_of(StructureId{s.id});
            if (i == no_node) continue;
            const auto [f, l] = culvert::testing::seen(*r, i);
            for (const double v : {f.effective_area, f.known_flow, f.time, f.intensity, f.plain_flow, f.flow, f.normal,
                                   f.velocity, f.travel, l.level, l.energy, l.head_up, l.head_down, l.velocity_up,
                                   l.velocity_down, l.jump, l.full_length})
                b.add(v);
        }
    return b.text();
}

}  // namespace

/// Trees give the same bits as the kernel that was tested when they were recorded, however networks are compiled.
/// Recorded anew when curves came to be asked by the polynomials of their panels: over 26,880 structures of 400 such
/// networks no level lies further than 9 micrometres from that of panels a hundred times finer, no jump 2 mm.
class TestRecorded : public QObject {
    Q_OBJECT
  private slots:
    void two_hundred_trees_give_the_same_bits() {
        const std::string file = std::string(CULVERT_SOURCE) + "/tests/analysis/recorded.txt";
        if (qEnvironmentVariableIsSet("CULVERT_RECORD")) {
            std::ofstream out(file);
            out << functions() << "\n";
            for (unsigned seed = 1; seed <= 200; ++seed) out << results(seed) << "\n";
        }
        std::ifstream in(file);
        std::string line;
        QVERIFY(std::getline(in, line));
        if (line != functions()) QSKIP("recorded with other last bits of exp, log, sin, pow than this machine's");
        for (unsigned seed = 1; seed <= 200; ++seed) {
            QVERIFY(std::getline(in, line));
            QCOMPARE(QString::fromStdString(results(seed)), QString::fromStdString(line));
        }
    }
};

QTEST_APPLESS_MAIN(TestRecorded)
#include "test_recorded.moc"
