// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/tables.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

using Json = nlohmann::ordered_json;

std::size_t characters(const std::string& text) {
    std::size_t n = 0;
    for (const char c : text) n += (static_cast<unsigned char>(c) & 0xC0) != 0x80;
    return n;
}

Json number(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

constexpr std::string_view verdict_words[] = {"unknown", "within", "near", "beyond"};

/// Links, or nodes, in the order people read: by name of the structure (that a pipe leaves), numbers in names counting
/// as numbers.
std::vector<int> reading_order(const Project& project, const Network& net, bool pipes) {
    struct Entry {
        std::string stem;
        long number;
        std::string name;
        int index;
    };
    std::vector<Entry> entries;
    const int count = static_cast<int>(pipes ? net.links.size() : net.nodes.size());
    for (int i = 0; i < count; ++i) {
        const Node& n = net.nodes[static_cast<std::size_t>(pipes ? net.links[static_cast<std::size_t>(i)].from : i)];
        const std::string name = element_name(project, Kind::Structure, n.structure.value);
        const auto digit = name.find_first_of("0123456789");
        entries.push_back(
            {name.substr(0, digit), digit == std::string::npos ? 0 : std::atol(name.c_str() + digit), name, i});
    }
    std::sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) {
        return std::tie(a.stem, a.number, a.name, a.index) < std::tie(b.stem, b.number, b.name, b.index);
    });
    std::vector<int> order;
    for (const Entry& e : entries) order.push_back(e.index);
    return order;
}

}  // namespace

std::string render(const TextTable& t) {
    std::vector<std::size_t> width(t.heads.size());
    for (std::size_t c = 0; c < t.heads.size(); ++c) {
        width[c] = std::max(characters(t.heads[c]), c < t.units.size() ? characters(t.units[c]) : 0);
        for (const auto& row : t.rows) width[c] = std::max(width[c], characters(row[c]));
    }
    std::string out;
    const auto line = [&](const std::vector<std::string>& cells) {
        std::string s;
        for (std::size_t c = 0; c < cells.size(); ++c) {
            const std::string pad(width[c] - characters(cells[c]), ' ');
            const bool left = c < t.left.size() && t.left[c];
            s += (c ? "  " : "") + (left ? cells[c] + pad : pad + cells[c]);
        }
        s.erase(s.find_last_not_of(' ') + 1);
        out += s + "\n";
    };
    line(t.heads);
    bool any_unit = false;
    for (const auto& u : t.units) any_unit |= !u.empty();
    if (any_unit) line(t.units);
    for (const auto& row : t.rows) line(row);
    return out;
}

TextTable pipe_table(const Project& project, const EventResult& result) {
    const UnitSet u = units_of(project);
    const auto unit = [&](Quantity q) { return std::string(u.unit(q).symbol); };
    TextTable t{
        {"pipe", "size", "length", "slope", "Tc", "i", "flow", "capacity", "ratio", "velocity", "depth", "HGL up",
         "HGL down", "to crown", "verdict"},
        {"", unit(Quantity::Size), unit(Quantity::Length), unit(Quantity::Slope), unit(Quantity::Duration),
         unit(Quantity::Intensity), unit(Quantity::Flow), unit(Quantity::Flow), "", unit(Quantity::Velocity), "y/D",
         unit(Quantity::Level), unit(Quantity::Level), unit(Quantity::Length), ""},
        {},
        {true, false, false, false, false, false, false, false, false, false, false, false, false, false, true}};
    const Network& net = *result.network;
    const Review rev = review(project, result);
    for (const int i : reading_order(project, net, true)) {
        const Link& n = net.links[static_cast<std::size_t>(i)];
        const LinkResult& r = result.links[static_cast<std::size_t>(i)];
        const NodeFlow& start = result.nodes[static_cast<std::size_t>(r.flow.against ? n.to : n.from)].flow;
        const double top = height(n.section);
        t.rows.push_back(
            {element_name(project, Kind::Pipe, n.pipe.value), u.number(top, Quantity::Size),
             u.number(n.length, Quantity::Length), u.number(n.slope, Quantity::Slope),
             u.number(start.time, Quantity::Duration), u.number(start.intensity, Quantity::Intensity),
             u.number(r.flow.flow, Quantity::Flow), u.number(n.capacity, Quantity::Flow),
             u.number(n.capacity > 0 ? r.flow.flow / n.capacity : not_given, Quantity::Ratio),
             u.number(r.flow.velocity, Quantity::Velocity),
             u.number(std::isnan(r.flow.normal) ? 1 : r.flow.normal / top, Quantity::Ratio),
             u.number(n.invert_up + r.level.head_up, Quantity::Level),
             u.number(n.invert_down + r.level.head_down, Quantity::Level),
             u.number(std::max(r.level.head_up, r.level.head_down) - top, Quantity::Length),
             std::string(verdict_words[static_cast<std::size_t>(rev.links[static_cast<std::size_t>(i)])])});
    }
    return t;
}

TextTable structure_table(const Project& project, const EventResult& result) {
    const UnitSet u = units_of(project);
    const std::string level(u.unit(Quantity::Level).symbol), length(u.unit(Quantity::Length).symbol);
    TextTable t{{"structure", "kind", "rim", "invert", "HGL", "EGL", "freeboard", "verdict"},
                {"", "", level, level, level, level, length, ""},
                {},
                {true, true, false, false, false, false, false, true}};
    const Network& net = *result.network;
    const Review rev = review(project, result);
    constexpr std::string_view kinds[] = {"inlet", "manhole", "outfall", "joint"};
    for (const int i : reading_order(project, net, false)) {
        const Node& n = net.nodes[static_cast<std::size_t>(i)];
        const NodeLevel& r = result.nodes[static_cast<std::size_t>(i)].level;
        t.rows.push_back(
            {element_name(project, Kind::Structure, n.structure.value),
             std::string(kinds[static_cast<std::size_t>(n.kind)]), u.number(n.rim, Quantity::Level),
             u.number(n.out == no_link ? not_given : net.links[static_cast<std::size_t>(n.out)].invert_up, Quantity::Level), u.number(r.level, Quantity::Level),
             u.number(r.energy, Quantity::Level), u.number(n.rim - r.level, Quantity::Length),
             std::string(
                 verdict_words[static_cast<std::size_t>(rev.nodes[static_cast<std::size_t>(i)])])});
    }
    return t;
}

Json result_json(const Project& project, const EventResult& result) {
    const Network& net = *result.network;
    const RainEvent* e = project.events.find(result.event.value);
    Json out;
    out["event"] = e ? e->name : "";
    out["units"] = "SI: m, m2, m3/s, m/s, s";
    const Review rev = review(project, result);
    for (const int i : reading_order(project, net, true)) {
        const Link& n = net.links[static_cast<std::size_t>(i)];
        const LinkResult& r = result.links[static_cast<std::size_t>(i)];
        const NodeFlow& start = result.nodes[static_cast<std::size_t>(r.flow.against ? n.to : n.from)].flow;
        Json p;
        p["pipe"] = element_name(project, Kind::Pipe, n.pipe.value);
        p["id"] = id_text(n.pipe.value);
        p["size"] = height(n.section);
        p["length"] = number(n.length);
        p["slope"] = number(n.slope);
        p["effective_area"] = r.flow.effective_area;
        p["known_flow"] = r.flow.known_flow;
        p["time_of_concentration"] = start.time;
        p["intensity"] = start.intensity;
        p["flow"] = r.flow.flow;
        if (!n.main || r.flow.against) p["against"] = r.flow.against;
        p["capacity"] = number(n.capacity);
        p["velocity"] = r.flow.velocity;
        p["normal_depth"] = number(r.flow.normal);
        p["hgl_up"] = number(n.invert_up + r.level.head_up);
        p["hgl_down"] = number(n.invert_down + r.level.head_down);
        p["full_length"] = r.level.full_length;
        p["jump_at"] = r.level.jump > 0 && r.level.jump < n.length ? Json(r.level.jump) : Json(nullptr);
        p["verdict"] = verdict_words[static_cast<std::size_t>(rev.links[static_cast<std::size_t>(i)])];
        out["pipes"].push_back(std::move(p));
    }
    for (const int i : reading_order(project, net, false)) {
        const Node& n = net.nodes[static_cast<std::size_t>(i)];
        const NodeLevel& r = result.nodes[static_cast<std::size_t>(i)].level;
        Json s;
        s["structure"] = element_name(project, Kind::Structure, n.structure.value);
        s["id"] = id_text(n.structure.value);
        s["rim"] = number(n.rim);
        s["hgl"] = number(r.level);
        s["egl"] = number(r.energy);
        s["freeboard"] = number(n.rim - r.level);
        s["verdict"] = verdict_words[static_cast<std::size_t>(rev.nodes[static_cast<std::size_t>(i)])];
        out["structures"].push_back(std::move(s));
    }
    return out;
}

TextTable findings_table(const Project& project, const std::vector<Finding>& findings) {
    constexpr const char* severities[] = {"note", "warning", "error"};
    TextTable t{
        {"severity", "event", "element", "finding", "numbers", "remedy"}, {}, {}, {true, true, true, true, true, true}};
    for (const Finding& f : findings) {
        const RainEvent* e = project.events.find(f.event.value);
        t.rows.push_back(
            {severities[static_cast<std::size_t>(f.severity)], e ? e->name : "",
             std::string(kind_name(f.element.kind)) + " " + element_name(project, f.element.kind, f.element.id),
             f.title, f.detail, f.remedy});
    }
    return t;
}

Json findings_json(const Project& project, const std::vector<Finding>& findings) {
    constexpr const char* severities[] = {"note", "warning", "error"};
    Json out = Json::array();
    for (const Finding& f : findings) {
        const RainEvent* e = project.events.find(f.event.value);
        Json j;
        j["severity"] = severities[static_cast<std::size_t>(f.severity)];
        j["event"] = e ? Json(e->name) : Json(nullptr);
        j["kind"] = kind_name(f.element.kind);
        j["element"] = element_name(project, f.element.kind, f.element.id);
        j["id"] = id_text(f.element.id);
        j["field"] = f.field;
        j["finding"] = f.title;
        j["value"] = number(f.check.value);
        j["limit"] = number(f.check.limit);
        j["margin"] = number(f.check.margin());
        j["detail"] = f.detail;
        j["remedy"] = f.remedy;
        out.push_back(std::move(j));
    }
    return out;
}

std::string terms_text(const Step& step) {
    std::string text;
    for (const Term& t : step.terms)
        text += (text.empty() ? "" : ", ") + t.symbol + " = " + working_number(t.value) +
                (t.unit.empty() ? "" : " " + t.unit);
    return text;
}

std::string working_text(const Explanation& e) {
    std::string out = e.title + "\n";
    for (const Step& s : e.steps) {
        out += "\n  " + s.meaning + (s.source.empty() ? "" : "   [" + s.source + "]") + "\n";
        out += "    " + s.symbol + " = " + (s.formula.empty() ? "" : s.formula + " = ") + working_number(s.result, 6) +
               (s.unit.empty() ? "" : " " + s.unit) + "\n";
        for (const Term& t : s.terms)
            out += "      " + t.symbol + " = " + working_number(t.value) + (t.unit.empty() ? "" : " " + t.unit) +
                   "   " + t.meaning + "\n";
        if (!s.note.empty()) out += "      " + s.note + "\n";
    }
    return out;
}

Json working_json(const Explanation& e) {
    Json out;
    out["title"] = e.title;
    for (const Step& s : e.steps) {
        Json j;
        j["symbol"] = s.symbol;
        j["meaning"] = s.meaning;
        j["formula"] = s.formula;
        for (const Term& t : s.terms)
            j["values"].push_back(
                {{"symbol", t.symbol}, {"value", number(t.value)}, {"unit", t.unit}, {"meaning", t.meaning}});
        j["result"] = number(s.result);
        j["unit"] = s.unit;
        j["source"] = s.source;
        j["note"] = s.note;
        out["steps"].push_back(std::move(j));
    }
    return out;
}

}  // namespace culvert
