// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/catchment_time.h"

#include <cmath>
#include <sstream>

#include "core/model/event_rain.h"

namespace culvert {
namespace {

/// "30m", "1%", "0.15" by the rules of all entries, in metres where no unit is written.
bool read(const std::string& word, Quantity q, double& value) {
    static const UnitSet plain = [] {
        UnitSet u(UnitSystem::Si);
        u.apply("slope m/m 5");
        return u;
    }();
    const Entry e = read_entry(word, q, plain);
    if (e.ok) value = e.value;
    return e.ok;
}

}  // namespace

PartsRead read_parts(const std::string& text, double two_year_rain) {
    PartsRead out;
    std::istringstream all(text);
    std::string part;
    int number = 0;
    while (std::getline(all, part, ';')) {
        std::istringstream line(part);
        std::vector<std::string> words;
        for (std::string w; line >> w;) words.push_back(w);
        if (words.empty()) continue;
        ++number;
        const auto wrong = [&](const std::string& what) {
            const auto from = part.find_first_not_of(' ');
            out.fault = "part " + std::to_string(number) + ", \"" + part.substr(from) + "\": " + what;
            return out;
        };
        double length = 0, slope = 0, n = 0, radius = 0;
        if (words[0] == "time") {
            if (words.size() != 2 || !read(words[1], Quantity::Duration, length))
                return wrong("a time is wanted, as in \"time 4min\"");
            if (!(length >= 0) || length > 1e6) return wrong("a time is not negative, and shorter than 12 days");
            out.parts.push_back(EnteredTime{length});
            continue;
        }
        if (words[0] != "sheet" && words[0] != "shallow" && words[0] != "channel" && words[0] != "wave")
            return wrong("it begins with sheet, shallow, channel, wave or time");
        if (words.size() < 3 || !read(words[1], Quantity::Length, length) || !read(words[2], Quantity::Slope, slope))
            return wrong("a length and a slope are wanted, as in \"" + words[0] + " 30m 1%\"");
        if (!(length >= 0) || length > 1e5) return wrong("its length must lie between 0 and 100 km");
        if (!(slope > 0)) return wrong("water does not run up: its slope must be above 0");
        if (words[0] == "shallow") {
            if (words.size() != 4 || (words[3] != "paved" && words[3] != "unpaved"))
                return wrong("it ends with paved or unpaved");
            out.parts.push_back(ShallowFlow{length, slope, words[3] == "paved"});
            continue;
        }
        if (words.size() < 4 || !read(words[3], Quantity::Roughness, n) || !(n > 0))
            return wrong("its roughness n is wanted after the slope");
        if (words[0] == "sheet") out.parts.push_back(SheetFlow{length, slope, n, two_year_rain});
        else if (words[0] == "wave") out.parts.push_back(WaveFlow{length, slope, n});
        else {
            if (words.size() < 5 || !read(words[4], Quantity::Length, radius) || !(radius > 0))
                return wrong("its hydraulic radius is wanted after n, as in \"0.4m\"");
            out.parts.push_back(ChannelFlow{length, slope, n, radius});
        }
    }
    if (out.parts.empty()) out.fault = "it has no part";
    return out;
}

std::string parts_text(const std::vector<FlowPart>& parts, const UnitSet& units) {
    const bool us = units.system() == UnitSystem::Us;
    const auto cut = [](double v, double unit, double digits) {  // no more digits than are meant
        return shortest_decimal(std::round(v / unit * digits) / digits, 1);
    };
    const auto metres = [&](double v) { return us ? cut(v, 0.3048, 100) + "ft" : cut(v, 1, 100) + "m"; };
    const auto fall = [&](double s) { return cut(s, 0.01, 1000) + "%"; };
    const auto plain = [&](double v) { return cut(v, 1, 1e6); };
    std::string out;
    for (const FlowPart& part : parts) {
        if (!out.empty()) out += "; ";
        out += std::visit(
            [&]<class P>(const P& p) -> std::string {
                if constexpr (std::is_same_v<P, EnteredTime>) return "time " + cut(p.time, 60, 100) + "min";
                else {
                    const std::string way = metres(p.length) + " " + fall(p.slope) + " ";
                    if constexpr (std::is_same_v<P, SheetFlow>) return "sheet " + way + plain(p.n);
                    else if constexpr (std::is_same_v<P, ShallowFlow>)
                        return "shallow " + way + (p.paved ? "paved" : "unpaved");
                    else if constexpr (std::is_same_v<P, ChannelFlow>)
                        return "channel " + way + plain(p.n) + " " + metres(p.radius);
                    else return "wave " + way + plain(p.n);
                }
            },
            part);
    }
    return out;
}

IdfCurve rain_of_times(const Project& project) {
    const RainEvent* e = design_event(project);
    const EventRainTable table = e ? rain_table_of(*e) : EventRainTable{};
    return table.durations.empty() ? IdfCurve() : IdfCurve(table.durations, table.intensities);
}

ConcentrationTime concentration_time(const Project& project, const Catchment& c) {
    return concentration_time(project, c, c.time_by == TimeBy::Parts ? rain_of_times(project) : IdfCurve());
}

ConcentrationTime concentration_time(const Project& project, const Catchment& c, const IdfCurve& rain) {
    ConcentrationTime out;
    const Settings& s = project.settings();
    switch (c.time_by) {
        case TimeBy::Entered: out.time = usable(c, &Catchment::time, not_given); return out;
        case TimeBy::Parts: {
            PartsRead read = read_parts(c.path_parts, usable(s, &Settings::two_year_rain, not_given));
            out.fault = read.fault;
            out.parts = std::move(read.parts);
            if (!out.fault.empty()) return out;
            double sum = 0;
            for (const FlowPart& p : out.parts) {
                const double t = travel_time(p, rain, usable(s, &Settings::uplift, 1));
                out.part_times.push_back(t);
                if (std::isnan(t) && out.fault.empty())
                    out.fault = std::holds_alternative<SheetFlow>(p)
                                    ? "sheet flow needs the project's 2-year 24-hour rain"
                                    : std::string(part_name(p)) + " has no time without rain";
                sum += t;
            }
            out.time = sum;
            return out;
        }
        case TimeBy::Kirpich:
        case TimeBy::Faa: {
            double way = usable(c, &Catchment::path_length, not_given);
            if (std::isnan(way) && c.flow_path.size() > 1) way = length(c.flow_path);
            const double slope = usable(c, &Catchment::path_slope, not_given);
            if (std::isnan(way)) out.fault = "its path length is not given";
            else if (!(slope > 0)) out.fault = "its path slope is not given, or not above 0";
            else if (c.time_by == TimeBy::Kirpich) out.time = kirpich_time(way, slope);
            else if (const double k = usable(c, &Catchment::coefficient, not_given); std::isnan(k))
                out.fault = "its runoff C is not given";
            else out.time = faa_time(k, way, slope);
            return out;
        }
    }
    return out;
}

}  // namespace culvert
