// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/edit_text.h"

#include <charconv>
#include <cmath>

namespace culvert {
namespace {

void number(std::string& out, double v) {
    if (!std::isfinite(v)) {
        out += "null";
        return;
    }
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, v);
    out.append(text, end.ptr);
}
void write(std::string& out, const Value& value) {
    std::visit(
        [&]<class T>(const T& v) {
            if constexpr (std::is_same_v<T, double>) number(out, v);
            else if constexpr (std::is_same_v<T, std::string>) out += json_quote(v);
            else if constexpr (std::is_same_v<T, int>) out += std::to_string(v);
            else if constexpr (std::is_same_v<T, bool>) out += v ? "true" : "false";
            else if constexpr (std::is_same_v<T, std::uint64_t>) out += "\"" + id_text(v) + "\"";
            else {
                out += "[";
                for (std::size_t i = 0; i < v.size(); ++i) {
                    if (i) out += ",";
                    if constexpr (std::is_same_v<T, std::vector<Point>>) {
                        out += "[";
                        number(out, v[i].x);
                        out += ",";
                        number(out, v[i].y);
                        out += "]";
                    } else number(out, v[i]);
                }
                out += "]";
            }
        },
        value);
}
bool read_double(const Json& j, double& v) {
    if (j.type == Json::Type::Null) {
        v = not_given;
        return true;
    }
    if (j.type != Json::Type::Number) return false;
    const auto end = std::from_chars(j.text.data(), j.text.data() + j.text.size(), v);
    return end.ec == std::errc();
}
/// A value of the same type as `model`.
std::optional<Value> read(const Json& j, const Value& model) {
    return std::visit(
        [&]<class T>(const T&) -> std::optional<Value> {
            if constexpr (std::is_same_v<T, double>) {
                double v = 0;
                return read_double(j, v) ? std::optional<Value>(v) : std::nullopt;
            } else if constexpr (std::is_same_v<T, std::string>)
                return j.type == Json::Type::Text ? std::optional<Value>(j.text) : std::nullopt;
            else if constexpr (std::is_same_v<T, int>)
                return j.type == Json::Type::Number ? std::optional<Value>(std::atoi(j.text.c_str())) : std::nullopt;
            else if constexpr (std::is_same_v<T, bool>)
                return j.type == Json::Type::Flag ? std::optional<Value>(j.flag) : std::nullopt;
            else if constexpr (std::is_same_v<T, std::uint64_t>)
                return j.type == Json::Type::Text ? std::optional<Value>(read_id(j.text)) : std::nullopt;
            else {
                T list;
                for (const Json& item : j.items) {
                    if constexpr (std::is_same_v<T, std::vector<Point>>) {
                        Point p;
                        if (item.items.size() != 2 || !read_double(item.items[0], p.x) ||
                            !read_double(item.items[1], p.y))
                            return {};
                        list.push_back(p);
                    } else {
                        double v = 0;
                        if (!read_double(item, v)) return {};
                        list.push_back(v);
                    }
                }
                return j.type == Json::Type::List ? std::optional<Value>(list) : std::nullopt;
            }
        },
        model);
}
template <class R>
void write_row(std::string& out, const R& row) {
    static const R blank{};
    out += "{\"id\":\"" + id_text(row.id) + "\"";
    const auto fields = fields_of<R>();
    std::string origins;
    for (std::size_t i = 0; i < fields.size(); ++i) {
        const Value v = get(row, fields[i]);
        if (!same_value(v, get(blank, fields[i]))) {
            out += ",\"" + std::string(fields[i].key) + "\":";
            write(out, v);
        }
        if (row.origin[i] != Origin::Default)
            origins += (origins.empty() ? "\"" : ",\"") + std::string(fields[i].key) +
                       "\":" + std::to_string(static_cast<int>(row.origin[i]));
    }
    if (!origins.empty()) out += ",\"origin\":{" + origins + "}";
    if (!row.foreign.empty()) {
        out += ",\"other_ids\":[";
        for (std::size_t i = 0; i < row.foreign.size(); ++i)
            out += (i ? ",[" : "[") + json_quote(row.foreign[i].first) + "," + json_quote(row.foreign[i].second) + "]";
        out += "]";
    }
    if (!row.unknown.empty()) out += ",\"unknown\":" + json_quote(row.unknown);
    out += "}";
}
template <class R>
std::optional<R> read_row(const Json& j) {
    R row;
    if (j.type != Json::Type::Object) return {};
    for (const auto& [key, value] : j.members) {
        if (key == "id") row.id = read_id(value.text);
        else if (key == "unknown") row.unknown = value.text;
        else if (key == "origin") {
            for (const auto& [k, o] : value.members)
                if (const auto f = field_index(kind_of<R>(), k))
                    row.origin[*f] = static_cast<Origin>(std::clamp(std::atoi(o.text.c_str()), 0, 5));
        } else if (key == "other_ids") {
            for (const Json& pair : value.items)
                if (pair.items.size() == 2) row.foreign.emplace_back(pair.items[0].text, pair.items[1].text);
        } else if (const auto f = field_index(kind_of<R>(), key)) {
            const auto& field = fields_of<R>()[*f];
            if (const auto v = read(value, get(row, field))) set(row, field, *v);
        }
    }
    if (row.id == 0) return {};
    return row;
}
std::optional<Kind> kind_named(const std::string& name) {
    for (std::size_t k = 0; k < kind_count; ++k)
        if (kind_name(static_cast<Kind>(k)) == name) return static_cast<Kind>(k);
    return {};
}

}  // namespace

std::string edit_text(const Edit& edit) {
    std::string out = "{\"name\":" + json_quote(edit.name) + ",\"changes\":[";
    bool first = true;
    for (const Change& c : edit.changes) {
        if (!first) out += ",";
        first = false;
        if (const auto* p = std::get_if<Patch>(&c)) {
            out += "{\"patch\":\"" + std::string(kind_name(p->kind)) + "\",\"id\":\"" + id_text(p->id) +
                   "\",\"field\":\"" + std::string(infos_of(p->kind)[p->field]->key) + "\",\"before\":";
            write(out, p->before);
            out += ",\"after\":";
            write(out, p->after);
            out += ",\"origins\":[" + std::to_string(static_cast<int>(p->origin_before)) + "," +
                   std::to_string(static_cast<int>(p->origin_after)) + "]}";
        } else {
            const bool insert = std::holds_alternative<Insert>(c);
            const AnyRow& row = insert ? std::get<Insert>(c).row : std::get<Delete>(c).row;
            out += std::string("{\"") + (insert ? "insert" : "delete") + "\":\"" +
                   std::string(kind_name(static_cast<Kind>(row.index()))) + "\",\"row\":";
            std::visit([&](const auto& r) { write_row(out, r); }, row);
            out += "}";
        }
    }
    return out + "]}";
}

std::optional<Edit> read_edit(const std::string& text) {
    const JsonOutcome json = parse_json(text);
    return json.ok ? read_edit(json.root) : std::nullopt;
}

std::optional<Edit> read_edit(const Json& json) {
    const Json *name = json.find("name"), *changes = json.find("changes");
    if (!name || !changes || changes->type != Json::Type::List) return {};
    Edit edit;
    edit.name = name->text;
    for (const Json& c : changes->items) {
        if (const Json* patch = c.find("patch")) {
            const auto kind = kind_named(patch->text);
            const Json *id = c.find("id"), *field = c.find("field"), *before = c.find("before"),
                       *after = c.find("after"), *origins = c.find("origins");
            if (!id || !field || !before || !after) return {};
            if (!kind) continue;
            const auto index = field_index(*kind, field->text);
            if (!index) continue;
            const Value model =
                with_row_type(*kind, [&]<class R>(std::type_identity<R>) { return get(R{}, fields_of<R>()[*index]); });
            const auto b = read(*before, model), a = read(*after, model);
            if (!a || !b) return {};
            Patch p{*kind, read_id(id->text), *index, *b, *a, Origin::Default, Origin::Typed};
            if (origins && origins->items.size() == 2) {
                p.origin_before = static_cast<Origin>(std::clamp(std::atoi(origins->items[0].text.c_str()), 0, 5));
                p.origin_after = static_cast<Origin>(std::clamp(std::atoi(origins->items[1].text.c_str()), 0, 5));
            }
            edit.changes.push_back(std::move(p));
            continue;
        }
        const Json *insert = c.find("insert"), *gone = c.find("delete"), *row = c.find("row");
        if ((!insert && !gone) || !row) return {};
        const auto kind = kind_named(insert ? insert->text : gone->text);
        if (!kind) continue;
        const bool good = with_row_type(*kind, [&]<class R>(std::type_identity<R>) {
            auto r = read_row<R>(*row);
            if (!r) return false;
            if (insert) edit.changes.push_back(Insert{std::move(*r)});
            else edit.changes.push_back(Delete{std::move(*r)});
            return true;
        });
        if (!good) return {};
    }
    return edit;
}

}  // namespace culvert
