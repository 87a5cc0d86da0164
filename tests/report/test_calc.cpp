// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "report/calc.h"

using namespace culvert;

namespace {
bool close(double a, double b, double relative) {
    return std::abs(a - b) <= relative * std::max(std::abs(a), std::abs(b));
}
/// Inputs at which every calculation has an answer.
CalcValues usual(const Calc& c) {
    const CalcValues some{{"flow", 0.04},  {"grade", 0.012}, {"coefficient", 0.7}, {"intensity", 2e-5},
                          {"area", 9000},  {"length", 20},   {"slope", 0.01},      {"rain", 0.08},
                          {"radius", 0.3}, {"size", 0.45},   {"depth", 0.08},      {"duration", 600},
                          {"a", 1000},     {"b", 9},         {"c", 0.8},           {"d1", 300},
                          {"d2", 1200},    {"d3", 3600},     {"i1", 3e-5},         {"i2", 1.4e-5},
                          {"i3", 6e-6},    {"head", 0.9},    {"cn", 80},           {"runoff", 0.03},
                          {"time", 600},   {"allowed", 0.01}};
    CalcValues in;
    for (const CalcField& f : c.inputs)
        if (const auto at = some.find(f.key); at != some.end() && std::isnan(f.usual))
            in[std::string(f.key)] = at->second;
    return in;
}
}  // namespace

/// Calculations without an element: their working gives their numbers, and each input comes back from each result.
class TestCalc : public QObject {
    Q_OBJECT
  private slots:
    void every_working_gives_its_number() {
        for (const Calc& c : calcs())
            for (const Edition e : {Edition::Si, Edition::Us}) {
                const CalcAnswer a = calculate(c, usual(c), e);
                QVERIFY2(a.ok, qPrintable(QString::fromStdString(std::string(c.name) + ": " + a.error)));
                for (const Step& s : a.working)
                    if (!s.formula.empty()) {
                        std::string error;
                        const double v = evaluate(s.formula, s.terms, &error);
                        QVERIFY2(close(v, s.result, 1e-5),
                                 qPrintable(QString::fromStdString(std::string(c.name) + " " + s.symbol + ": " +
                                                                   s.formula + " " + error) +
                                            QString(" = %1, not %2").arg(v).arg(s.result)));
                    }
                for (const CalcField& f : c.results)
                    QVERIFY2(a.values.contains(std::string(f.key)) && std::isfinite(a.values.at(std::string(f.key))),
                             f.key.data());
            }
    }
    void any_input_comes_back_from_a_result() {
        int sought = 0;
        for (const Calc& c : calcs()) {
            const CalcValues in = usual(c);
            const CalcAnswer a = calculate(c, in, Edition::Si);
            for (const auto& [key, value] : in) {
                for (const CalcField& r : c.results) {
                    if (r.key == "worst") continue;  // a measure of the rest: nothing is sought by it
                    if (in.contains(std::string(r.key)) ||
                        std::any_of(c.inputs.begin(), c.inputs.end(),
                                    [&](const CalcField& f) { return f.key == r.key; }))
                        continue;
                    // Only where the result depends on it, and one way.
                    CalcValues more = in, less = in;
                    more[key] = value * 1.01;
                    less[key] = value * 0.99;
                    const CalcAnswer up = calculate(c, more, Edition::Si), down = calculate(c, less, Edition::Si);
                    if (!up.ok || !down.ok ||
                        close(up.values.at(std::string(r.key)), down.values.at(std::string(r.key)), 1e-6))
                        continue;
                    CalcValues given = in;
                    given.erase(key);
                    given[std::string(r.key)] = a.values.at(std::string(r.key));
                    const CalcAnswer back = calculate(c, given, Edition::Si);
                    if (!back.ok) continue;  // not one way over all its range: said
                    QVERIFY(back.sought == key);
                    QVERIFY2(close(back.values.at(std::string(r.key)), given.at(std::string(r.key)), 1e-8),
                             qPrintable(QString::fromStdString(std::string(c.name) + ": " + key + " from " +
                                                               std::string(r.key))));
                    ++sought;
                }
            }
        }
        QVERIFY2(sought > 35, qPrintable(QString::number(sought)));
    }
    void words_are_read_with_their_units() {
        const UnitSet u(UnitSystem::Si);
        CalcTable t = calculate("gutter flow=40 l/s grade=1.2%", u, Edition::Si);
        QVERIFY2(t.error.empty(), t.error.c_str());
        const double spread = t.rows[0].values.at("spread");
        t = calculate("gutter spread=" + std::to_string(spread) + "m grade=1.2%", u, Edition::Si);
        QVERIFY(t.error.empty() && t.rows[0].sought == "flow" && close(t.rows[0].values.at("flow"), 0.04, 1e-5));
        QVERIFY(QString::fromStdString(answer_line(*t.calc, t.rows[0], u)).startsWith("flow 40.0 l/s, spread"));
        t = calculate("gutter flow=10l/s..50l/s/5 grade=1.2%", u, Edition::Si);
        QCOMPARE(t.rows.size(), std::size_t{5});
        QVERIFY(close(t.rows[2].values.at("flow"), 0.03, 1e-12) && t.ranged == "flow");
        for (std::size_t i = 1; i < 5; ++i) QVERIFY(t.rows[i].values.at("spread") > t.rows[i - 1].values.at("spread"));
        // Conjugate depths conserve momentum and come back.
        t = calculate("conjugate flow=100l/s depth=120mm size=900", u, Edition::Si);
        QVERIFY2(t.error.empty(), t.error.c_str());
    }
    void what_is_wrong_is_said() {
        const UnitSet u(UnitSystem::Si);
        for (const auto& [words, part] : {std::pair{"guter flow=1l/s", "is \"gutter\" meant?"},
                                          {"gutter flow=1l/s", "asks for grade"},
                                          {"gutter flo=1l/s grade=1%", "nothing that"},
                                          {"gutter flow=x grade=1%", "flow:"},
                                          {"gutter flow=1l/s grade=1% spread=2m", "everything is given"},
                                          {"normal flow=5m3/s size=300 slope=1%", "runs full"},
                                          {"gutter flow=1l/s..2l/s grade=1%..2%", "one value can run"},
                                          {"gutter spread=50m grade=1%", "no flow gives"}}) {
            const CalcTable t = calculate(words, u, Edition::Si);
            QVERIFY2(QString::fromStdString(t.error).contains(part),
                     qPrintable(QString("%1: %2").arg(words, QString::fromStdString(t.error))));
        }
    }
    void rain_by_equation_between_rows_and_through_rows() {
        const UnitSet si(UnitSystem::Si), us(UnitSystem::Us);
        const auto value = [](const CalcTable& t, const char* key) { return t.rows.at(0).values.at(key); };
        const CalcTable point = calculate("idf duration=20min a=1500 b=10 c=0.8", si, Edition::Si);
        QVERIFY(close(value(point, "intensity") * 3.6e6, 1500 / std::pow(30, 0.8), 1e-9));
        QVERIFY(
            close(value(calculate("idf duration=20min a=60 b=10 c=0.8", us, Edition::Us), "intensity") / 0.0254 * 3600,
                  60 / std::pow(30, 0.8), 1e-9));
        // In log-log the middle of two durations has the geometric mean of their intensities.
        const CalcTable middle =
            calculate("idf-point duration=20min d1=10min i1=90mm/h d2=40min i2=40mm/h", si, Edition::Si);
        QVERIFY(close(value(middle, "intensity") * 3.6e6, 60, 1e-9));
        QVERIFY(close(value(middle, "depth"), 0.020, 1e-9));
        QVERIFY(!calculate("idf-point duration=20min d1=40min i1=90mm/h d2=10min i2=40mm/h", si, Edition::Si)
                     .rows.at(0)
                     .ok);
        QVERIFY(!calculate("idf-point duration=20min d1=10min i1=40mm/h d2=40min i2=90mm/h", si, Edition::Si)
                     .rows.at(0)
                     .ok);
        // Rows of an equation give it back.
        const auto at = [](double t) { return std::to_string(900 / std::pow(t + 7, 0.72)) + "mm/h"; };
        const CalcTable fit = calculate(
            "idf-fit d1=5min i1=" + at(5) + " d2=20min i2=" + at(20) + " d3=90min i3=" + at(90), si, Edition::Si);
        QVERIFY(fit.rows.at(0).ok);
        QVERIFY(close(value(fit, "a"), 900, 1e-3) && close(value(fit, "b"), 7, 1e-3) &&
                close(value(fit, "c"), 0.72, 1e-3));
        QVERIFY(value(fit, "worst") < 1e-5);
    }
};

QTEST_GUILESS_MAIN(TestCalc)
#include "test_calc.moc"
