// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_rain.h"

#include "core/analysis/rational.h"
#include "core/model/event_rain.h"

namespace culvert {

void add_intensity(Working& steps, const WorkingUnits& units, const Project& project, const EventResult& result,
                   double time, double intensity) {
    const RainEvent* e = project.events.find(result.event.value);
    if (!e || rain_of(*e).curve.empty()) return;
    const EventRainTable table = rain_table_of(*e);
    const double t = time;
    const auto last = table.durations.size() - 1;
    Step s{"i",
           "intensity at Tc",
           "i1 * u",
           {},
           units.rain(intensity),
           units.rain_unit(),
           (e->given == RainGiven::Intensities ? "rain table of the event " : "heaviest windows of the storm of ") +
               e->name,
           {}};
    const auto given = [&](const std::string& k, std::size_t j) {
        s.terms.push_back({"t" + k, table.durations[j] / 60, "min", "duration"});
        s.terms.push_back({"i" + k, units.rain(table.intensities[j]), units.rain_unit(), "its intensity"});
    };
    if (last == 0 || t <= table.durations[0]) {
        given("1", 0);
        if (t < table.durations[0]) s.note = "below the shortest duration: held at it";
    } else {
        std::size_t j = 1;
        while (j < last && table.durations[j] < t) ++j;
        given("1", j - 1);
        given("2", j);
        s.terms.push_back({"Tc", t / 60, "min", "time of concentration"});
        s.formula = "exp(ln(i1) + (ln(Tc) - ln(t1)) / (ln(t2) - ln(t1)) * (ln(i2) - ln(i1))) * u";
        s.note = t > table.durations[last] ? "above the longest duration: the line of the last two is extended"
                                           : "straight line in log-log";
    }
    s.terms.push_back({"u", result.network->uplift, "", "rain uplift"});
    steps.push_back(s);
}

}  // namespace culvert
