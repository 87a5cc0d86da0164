// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/tables.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/analysis/result_fields.h"
#include "core/network/through_time.h"

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

namespace {

/// Name first, then what `extra` gives, the results that tables show, and the verdict.
TextTable result_table(const Project& project, const EventResult& result, ResultOn on) {
    const UnitSet u = units_of(project);
    const Network& net = *result.network;
    const bool links = on == ResultOn::Link;
    TextTable t{{links ? "pipe" : "structure"}, {""}, {}, {true}};
    const auto column = [&t](std::string_view head, std::string_view unit, bool left) {
        t.heads.emplace_back(head);
        t.units.emplace_back(unit);
        t.left.push_back(left);
    };
    // Ponds have columns where there are ponds.
    const bool ponds = !result.ponds.empty() || !net.releases.empty();
    const auto in_this_table = [&](const ResultField& f) {
        return (f.shown & in_table) != 0 && (f.stage != Stage::Storage || ponds);
    };
    if (!links) column("kind", "", true);
    for (const ResultField& f : result_fields(on))
        if (in_this_table(f)) column(f.head, u.unit(f.quantity).symbol, false);
    column("verdict", "", true);
    const Review rev = review(project, result);
    constexpr std::string_view kinds[] = {"inlet", "manhole", "outfall", "joint", "pond"};
    for (const int at : reading_order(project, net, links)) {
        const auto i = static_cast<std::size_t>(at);
        std::vector<std::string> row;
        if (links) row.push_back(element_name(project, Kind::Pipe, net.links[i].pipe.value));
        else {
            row.push_back(element_name(project, Kind::Structure, net.nodes[i].structure.value));
            row.emplace_back(
                kinds[static_cast<std::size_t>(project.structures.find(net.nodes[i].structure.value)->kind)]);
        }
        for (const ResultField& f : result_fields(on))
            if (in_this_table(f)) row.push_back(u.number(f.value(result, i), f.quantity));
        row.emplace_back(verdict_words[static_cast<std::size_t>((links ? rev.links : rev.nodes)[i])]);
        t.rows.push_back(std::move(row));
    }
    return t;
}

}  // namespace

TextTable pipe_table(const Project& project, const EventResult& result) {
    return result_table(project, result, ResultOn::Link);
}
TextTable structure_table(const Project& project, const EventResult& result) {
    return result_table(project, result, ResultOn::Node);
}

Json result_json(const Project& project, const EventResult& result) {
    const Network& net = *result.network;
    const RainEvent* e = project.events.find(result.event.value);
    Json out;
    out["event"] = e ? e->name : "";
    out["source"] = source_name(result.source);
    out["units"] = "SI: m, m2, m3/s, m/s, s";
    const Review rev = review(project, result);
    for (const bool links : {true, false})
        for (const int at : reading_order(project, net, links)) {
            const auto i = static_cast<std::size_t>(at);
            const Kind kind = links ? Kind::Pipe : Kind::Structure;
            const std::uint64_t id = links ? net.links[i].pipe.value : net.nodes[i].structure.value;
            Json row;
            row[links ? "pipe" : "structure"] = element_name(project, kind, id);
            row["id"] = id_text(id);
            for (const ResultField& f : result_fields(links ? ResultOn::Link : ResultOn::Node))
                row[std::string(f.key)] = number(f.value(result, i));
            if (links && (!net.links[i].main || result.links[i].flow.against))
                row["against"] = result.links[i].flow.against;
            row["verdict"] = verdict_words[static_cast<std::size_t>((links ? rev.links : rev.nodes)[i])];
            out[links ? "pipes" : "structures"].push_back(std::move(row));
        }
    for (std::size_t i = 0; i < result.runoffs.size(); ++i) {
        const std::uint64_t id = net.through_time->areas[i].catchment.value;
        Json row;
        row["catchment"] = element_name(project, Kind::Catchment, id);
        row["id"] = id_text(id);
        for (const ResultField& f : result_fields(ResultOn::Area)) row[std::string(f.key)] = number(f.value(result, i));
        out["catchments"].push_back(std::move(row));
    }
    for (const Series& s : result.series) {
        Json values = Json::array();
        for (const double v : s.values) values.push_back(number(v));
        out["series"].push_back({{"kind", kind_name(s.element.kind)},
                                 {"id", id_text(s.element.id)},
                                 {"result", s.key},
                                 {"start", s.start},
                                 {"step", s.step},
                                 {"values", std::move(values)}});
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
