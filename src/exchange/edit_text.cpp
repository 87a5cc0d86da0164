// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/edit_text.h"

#include <cmath>

#include "core/base/numbers.h"
#include "core/base/words.h"
#include "core/model/cells.h"

namespace culvert {
namespace {

void number(std::string& out, double v) { out += std::isfinite(v) ? shortest(v) : "null"; }

void write(std::string& out, const FieldInfo& info, const Value& value) {
    std::visit(
        [&]<class T>(const T& v) {
            if constexpr (std::is_same_v<T, double>) number(out, v);
            else if constexpr (std::is_same_v<T, std::string>) out += json_quote(v);
            else if constexpr (std::is_same_v<T, int>)
                out += v >= 0 && static_cast<std::size_t>(v) < info.choices.size()
                           ? json_quote(std::string(info.choices[static_cast<std::size_t>(v)]))
                           : std::to_string(v);
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

std::string origin_word(Origin o) { return json_quote(std::string(origin_names[static_cast<std::size_t>(o)])); }

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
            write(out, fields[i], v);
        }
        if (row.origin[i] != Origin::Default)
            origins +=
                (origins.empty() ? "\"" : ",\"") + std::string(fields[i].key) + "\":" + origin_word(row.origin[i]);
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

std::optional<Kind> kind_named(const std::string& name) {
    for (std::size_t k = 0; k < kind_count; ++k)
        if (kind_name(static_cast<Kind>(k)) == name) return static_cast<Kind>(k);
    return {};
}
/// An id as files hold it; all zeros is "none". False for any other text.
bool read_reference(const Json& j, std::uint64_t& id) {
    if (j.type != Json::Type::Text) return false;
    id = read_id(j.text);
    return id != 0 || j.text == id_text(0);
}

/// Reads the changes of one Edit. What does not fit throws Misfit, which ends at the change it lies in.
class Reader {
  public:
    struct Misfit {
        std::string what;
    };

    static Change change(const Json& c) {
        if (const Json* patch = c.find("patch")) return read_patch(c, *patch);
        const Json *insert = c.find("insert"), *gone = c.find("delete"), *row = c.find("row");
        if ((!insert && !gone) || !row) throw Misfit{"a change is neither patch, insert nor delete"};
        const Kind kind = known_kind(insert ? *insert : *gone);
        if (kind == Kind::Settings) throw Misfit{"the settings can be neither inserted nor deleted"};
        return with_row_type(kind, [&]<class R>(std::type_identity<R>) -> Change {
            R r = read_row<R>(*row);
            if (insert) return Insert{std::move(r)};
            return Delete{std::move(r)};
        });
    }

  private:
    static Kind known_kind(const Json& j) {
        const auto kind = kind_named(j.text);
        if (!kind) throw Misfit{"\"" + printable(j.text.substr(0, 40)) + "\" is no kind of element that is known here"};
        return *kind;
    }
    static double read_double(const Json& j, bool may_lack) {
        double v = not_given;
        if (j.type == Json::Type::Null && may_lack) return v;
        if (j.type != Json::Type::Number || !parse_double(j.text, v))
            throw Misfit{"expected a number, found " + j.in_words()};
        return v;
    }
    static Origin read_origin(const Json& j) {
        int number = -1;
        if (j.type == Json::Type::Number && parse_int(j.text, number) && number >= 0 &&
            number < static_cast<int>(origin_names.size()))
            return static_cast<Origin>(number);
        if (j.type == Json::Type::Text)
            for (std::size_t i = 0; i < origin_names.size(); ++i)
                if (origin_names[i] == j.text) return static_cast<Origin>(i);
        throw Misfit{j.in_words() + " is no origin of a value"};
    }
    /// A value of the same type as `model`, fit for the field.
    static Value read(const Json& j, const FieldInfo& info, const Value& model) {
        Value value = std::visit([&]<class T>(const T&) -> Value { return read_as<T>(j, info); }, model);
        // A number beyond its range is kept and found fault with, as in a project file; places and choices are not.
        if (!std::holds_alternative<double>(value) && !std::holds_alternative<std::vector<double>>(value))
            if (const std::string fault = value_fault(info, value, UnitSet()); !fault.empty()) throw Misfit{fault};
        if ((info.key == "x" || info.key == "y") && std::holds_alternative<double>(value))
            if (const std::string fault = value_fault(info, value, UnitSet()); !fault.empty()) throw Misfit{fault};
        return value;
    }
    template <class T>
    static Value read_as(const Json& j, const FieldInfo& info) {
        if constexpr (std::is_same_v<T, double>) return read_double(j, true);
        else if constexpr (std::is_same_v<T, std::string>) {
            if (j.type != Json::Type::Text) throw Misfit{"expected a text, found " + j.in_words()};
            return j.text;
        } else if constexpr (std::is_same_v<T, int>) {
            int number = -1;
            if (j.type == Json::Type::Number && parse_int(j.text, number)) return number;  // as older versions wrote it
            for (std::size_t i = 0; i < info.choices.size(); ++i)
                if (j.type == Json::Type::Text && info.choices[i] == j.text) return static_cast<int>(i);
            throw Misfit{j.in_words() + " is no choice"};
        } else if constexpr (std::is_same_v<T, bool>) {
            if (j.type != Json::Type::Flag) throw Misfit{"expected true or false, found " + j.in_words()};
            return j.flag;
        } else if constexpr (std::is_same_v<T, std::uint64_t>) {
            std::uint64_t id = 0;
            if (!read_reference(j, id)) throw Misfit{j.in_words() + " is no id of 16 hexadecimal digits"};
            return id;
        } else {
            if (j.type != Json::Type::List) throw Misfit{"expected a list, found " + j.in_words()};
            T list;
            for (const Json& item : j.items) {
                if constexpr (std::is_same_v<T, std::vector<Point>>) {
                    if (item.type != Json::Type::List || item.items.size() != 2)
                        throw Misfit{"expected a point [x, y], found " + item.in_words()};
                    list.push_back({read_double(item.items[0], false), read_double(item.items[1], false)});
                } else list.push_back(read_double(item, false));
            }
            return list;
        }
    }
    static Change read_patch(const Json& c, const Json& patch) {
        const Json *id = c.find("id"), *field = c.find("field"), *before = c.find("before"), *after = c.find("after"),
                   *origins = c.find("origins");
        if (!id || !field || !before || !after) throw Misfit{"a patch lacks its id, field or values"};
        const Kind kind = known_kind(patch);
        std::string what = std::string(kind_name(kind)) + " " + printable(id->text.substr(0, 40)) + ", field \"" +
                           printable(field->text.substr(0, 40)) + "\": ";
        Patch p{kind, 0, 0, {}, {}, Origin::Default, Origin::Typed};
        if (!read_reference(*id, p.id) || p.id == 0 || (kind == Kind::Settings && p.id != settings_id))
            throw Misfit{what + "there is no such element"};
        const auto index = field_index(kind, field->text);
        if (!index) throw Misfit{what + "this field is not known here"};
        p.field = *index;
        const Value model = blank_value(kind, *index);
        const FieldInfo& info = *infos_of(kind)[*index];
        try {
            p.before = read(*before, info, model);
            p.after = read(*after, info, model);
            if (origins && origins->items.size() == 2) {
                p.origin_before = read_origin(origins->items[0]);
                p.origin_after = read_origin(origins->items[1]);
            }
        } catch (Misfit& m) { throw Misfit{what + m.what}; }
        return p;
    }
    template <class R>
    static R read_row(const Json& j) {
        std::string what(kind_name(kind_of<R>()));
        if (j.type != Json::Type::Object) throw Misfit{"a " + what + " must be an object, found " + j.in_words()};
        R row;
        const Json *id = j.find("id"), *name = j.find("name");
        if (name && !name->text.empty()) what += " " + printable(name->text.substr(0, 60));
        if (!id || !read_reference(*id, row.id) || row.id == 0) throw Misfit{"a " + what + " has no id"};
        for (const auto& [key, value] : j.members) {
            if (key == "id") continue;
            if (key == "unknown") row.unknown = value.text;
            else if (key == "origin") {
                for (const auto& [k, o] : value.members)
                    if (const auto f = field_index(kind_of<R>(), k)) row.origin[*f] = read_origin(o);
            } else if (key == "other_ids") {
                for (const Json& pair : value.items)
                    if (pair.items.size() == 2) row.foreign.emplace_back(pair.items[0].text, pair.items[1].text);
            } else if (const auto f = field_index(kind_of<R>(), key)) {
                const auto& field = fields_of<R>()[*f];
                try {
                    set(row, field, read(value, field, get(row, field)));
                } catch (Misfit& m) { throw Misfit{what + ", field \"" + key + "\": " + m.what}; }
            } else
                throw Misfit{what + ", field \"" + printable(key.substr(0, 40)) + "\": this field is not known here"};
        }
        return row;
    }
};

constexpr std::size_t worth_splicing = 300;  ///< bytes of a text, below which it stands whole

bool inside_character(char c) { return (static_cast<unsigned char>(c) & 0xC0) == 0x80; }

/// `before` and `after` without what they share at both ends; whole characters.
std::string splice_of(const std::string& before, const std::string& after) {
    const std::size_t most = std::min(before.size(), after.size());
    std::size_t front = 0, back = 0;
    while (front < most && before[front] == after[front]) ++front;
    while (front > 0 && ((front < before.size() && inside_character(before[front])) ||
                         (front < after.size() && inside_character(after[front]))))
        --front;
    while (back < most - front && before[before.size() - 1 - back] == after[after.size() - 1 - back]) ++back;
    while (back > 0 && inside_character(before[before.size() - back])) --back;
    return "[" + std::to_string(front) + "," + std::to_string(before.size() - front - back) + "," +
           json_quote(after.substr(front, after.size() - front - back)) + "]";
}

std::string text_of(const Edit& edit, bool spliced) {
    std::string out = "{\"name\":" + json_quote(edit.name) + ",\"changes\":[";
    bool first = true;
    for (const Change& c : edit.changes) {
        if (!first) out += ",";
        first = false;
        if (const auto* p = std::get_if<Patch>(&c)) {
            const FieldInfo& info = *infos_of(p->kind)[p->field];
            out += "{\"patch\":\"" + std::string(kind_name(p->kind)) + "\",\"id\":\"" + id_text(p->id) +
                   "\",\"field\":\"" + std::string(info.key) + "\",";
            const auto *before = std::get_if<std::string>(&p->before), *after = std::get_if<std::string>(&p->after);
            if (spliced && before && after && before->size() > worth_splicing)
                out += "\"splice\":" + splice_of(*before, *after);
            else {
                out += "\"before\":";
                write(out, info, p->before);
                out += ",\"after\":";
                write(out, info, p->after);
            }
            out += ",\"origins\":[" + origin_word(p->origin_before) + "," + origin_word(p->origin_after) + "]}";
        } else {
            const bool insert = std::holds_alternative<Insert>(c);
            const AnyRow& row = insert ? std::get<Insert>(c).row : std::get<Delete>(c).row;
            out += std::string("{\"") + (insert ? "insert" : "delete") + "\":\"" +
                   std::string(kind_name(static_cast<Kind>(row.index()))) + "\",\"row\":";
            std::visit([&](const auto& r) { write_row(out, r); }, row);
            out += "}";
        }
    }
    if (!edit.unread.empty()) out += (first ? "" : ",") + edit.unread;
    return out + "]}";
}

}  // namespace

std::string edit_text(const Edit& edit) { return text_of(edit, false); }
std::string short_edit_text(const Edit& edit) { return text_of(edit, true); }

void expand_splices(
    Json& edit,
    const std::function<const std::string*(const std::string&, std::uint64_t, const std::string&)>& before_of) {
    for (auto& [key, list] : edit.members) {
        if (key != "changes") continue;
        for (Json& c : list.items) {
            const Json *splice = c.find("splice"), *kind = c.find("patch"), *id = c.find("id"),
                       *field = c.find("field");
            if (!splice || !kind || !id || !field || splice->items.size() != 3) continue;
            const std::string* before = before_of(kind->text, read_id(id->text), field->text);
            double kept = -1, cut = -1;
            if (!before || !parse_double(splice->items[0].text, kept) || !parse_double(splice->items[1].text, cut))
                continue;
            const auto size = static_cast<double>(before->size());
            if (!(kept >= 0 && cut >= 0 && kept <= size && cut <= size - kept)) continue;
            Json was = *splice, now = *splice;
            was.type = now.type = Json::Type::Text;
            was.items.clear();
            now.items.clear();
            was.text = *before;
            now.text = before->substr(0, static_cast<std::size_t>(kept)) + splice->items[2].text +
                       before->substr(static_cast<std::size_t>(kept + cut));
            std::erase_if(c.members, [](const auto& m) { return m.first == "splice"; });
            c.members.emplace_back("before", std::move(was));
            c.members.emplace_back("after", std::move(now));
        }
    }
}

std::optional<Edit> read_edit(const std::string& text, std::vector<std::string>* problems) {
    const JsonOutcome json = parse_json(text);
    return json.ok ? read_edit(json.root, problems) : std::nullopt;
}

std::optional<Edit> read_edit(const Json& json, std::vector<std::string>* problems) {
    const Json *name = json.find("name"), *changes = json.find("changes");
    if (!name || !changes || changes->type != Json::Type::List) return {};
    Edit edit;
    edit.name = name->text;
    for (const Json& c : changes->items) {
        try {
            edit.changes.push_back(Reader::change(c));
        } catch (const Reader::Misfit& misfit) {
            edit.unread += (edit.unread.empty() ? "" : ",") + json_text(c);
            if (problems && problems->size() < 50) problems->push_back(misfit.what);
        }
    }
    return edit;
}

}  // namespace culvert
