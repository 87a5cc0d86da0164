// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <set>
#include <unordered_map>

#include "exchange/file_fields.h"
#include "exchange/json_tree.h"
#include "exchange/project_file.h"

namespace culvert {
namespace {

/// Forward migration: each step turns one version's tree into the next one's.
void rename_member(Json& row, std::string_view from, std::string_view to) {
    for (auto& [k, v] : row.members)
        if (k == from) k = to;
}
void migrate_1_to_2(Json& root) {
    // Format 1 called a catchment's time of concentration "tc" and an inline joint "bend".
    for (auto& [table, rows] : root.members) {
        for (Json& row : rows.items) {
            if (table == "catchments") rename_member(row, "tc", "time");
            if (table == "structures")
                for (auto& [k, v] : row.members)
                    if (k == "kind" && v.text == "bend") v.text = "joint";
        }
    }
}
using Migration = void (*)(Json&);
constexpr Migration migrations[] = {nullptr, migrate_1_to_2};

class Reader {
  public:
    explicit Reader(ReadOutcome& out) : out_(out), units_(UnitSystem::Si) {}

    void run(Json& root) {
        if (root.type != Json::Type::Object)
            return refuse(root.line, std::string("expected an object, found ") + root.type_name(),
                          "This is not a project file of Calm Culvert.");
        const Json* version = root.find("calm-culvert");
        if (!version || version->type != Json::Type::Number)
            return refuse(1, "no format version (\"calm-culvert\": number)",
                          "This is not a project file of Calm Culvert.");
        const int number = std::atoi(version->text.c_str());
        if (number > format_version)
            return refuse(version->line,
                          "format " + version->text + " is newer than this program reads (" +
                              std::to_string(format_version) + ")",
                          "Update Calm Culvert; the file is untouched.");
        if (number < 1)
            return refuse(version->line, "format " + version->text + " does not exist", "Correct the version number.");
        if (number < format_version) out_.migrated_from = number;
        for (int v = number; v < format_version; ++v) migrations[v](root);
        if (const Json* settings = root.find("settings")) {
            if (const Json* system = settings->find("system"); system && system->text == "US")
                units_ = UnitSet(UnitSystem::Us);
            Settings s;
            if (row(*settings, s)) {
                s.id = settings_id;
                out_.project.settings_rows.erase(settings_id);
                out_.project.settings_rows.insert(s);
            }
        } else refuse(1, "no settings", "Add \"settings\": {\"system\": \"SI\"}.");
        for (auto& [key, value] : root.members) {
            if (key == "calm-culvert" || key == "settings") continue;
            bool known = false;
            for (std::size_t k = 0; k < kind_count; ++k) {
                const Kind kind = static_cast<Kind>(k);
                if (kind == Kind::Settings || table_name(kind) != key) continue;
                known = true;
                if (value.type != Json::Type::List) {
                    refuse(value.line, "\"" + key + "\" must be a list, found " + value.type_name(),
                           "Write it as [ ... ].");
                    continue;
                }
                with_row_type(kind, [&]<class R>(std::type_identity<R>) { table<R>(value); });
            }
            if (!known)
                out_.project.unknown +=
                    (out_.project.unknown.empty() ? "" : ",\n") + json_quote(key) + ": " + json_text(value);
        }
        out_.ok = !refused_;
        if (out_.ok) references();
    }

  private:
    void refuse(int line, std::string message, std::string remedy) {
        refused_ = true;
        if (out_.problems.size() < 50) out_.problems.push_back({line, 0, std::move(message), std::move(remedy)});
    }
    void warn(int line, std::string message, std::string remedy) {
        if (out_.problems.size() < 50) out_.problems.push_back({line, 0, std::move(message), std::move(remedy)});
    }

    template <class R>
    void table(const Json& list) {
        for (const Json& item : list.items) {
            R r;
            if (!row(item, r)) continue;
            if (const R* other = out_.project.table<R>().find(r.id)) {
                refuse(item.line,
                       "id " + id_text(r.id) + " of a " + std::string(kind_name(kind_of<R>())) +
                           " is used twice (first on line " + std::to_string(first_line_[other->id]) + ")",
                       "Give one of them another id.");
                continue;
            }
            first_line_[r.id] = item.line;
            out_.project.table<R>().insert(std::move(r));
        }
    }

    template <class R>
    bool row(const Json& item, R& r) {
        const std::string what(kind_name(kind_of<R>()));
        if (item.type != Json::Type::Object) {
            refuse(item.line, "a " + what + " must be an object, found " + item.type_name(), "Write it as { ... }.");
            return false;
        }
        std::string label = what;
        if (const Json* name = item.find("name"); name && !name->text.empty()) label += " " + name->text;
        const Json* id = item.find("id");
        r.id = id ? read_id(id->text) : 0;
        if (r.id == 0 && kind_of<R>() != Kind::Settings) {
            refuse(item.line,
                   label + ": id " + (id ? "\"" + id->text + "\" is not 16 hexadecimal digits" : "is missing"),
                   "Give it an id such as \"" + id_text(random_id()) + "\".");
            return false;
        }
        bool good = true;
        if constexpr (std::is_same_v<R, Limit>)  // what it limits decides the unit of its value
            if (const Json* kind = item.find("kind"))
                good &= field(r, fields_of<R>()[*field_index(Kind::Limit, "kind")], *kind, label, r.origin[0]);
        std::size_t expected = 0;  // members mostly come in the order of the field table
        const auto infos = infos_of(kind_of<R>());
        for (const auto& [key, value] : item.members) {
            if (key == "id") continue;
            std::optional<std::size_t> index;
            for (std::size_t k = expected; k < std::min(expected + 8, infos.size()) && !index; ++k)
                if (infos[k]->key == key) index = k;
            if (!index) index = field_index(kind_of<R>(), key);
            if (index) expected = *index + 1;
            if (key == "origin" && value.type == Json::Type::Object) continue;
            if (key == "other_ids" && value.type == Json::Type::Object) {
                for (const auto& [system, other] : value.members) r.foreign.emplace_back(system, other.text);
                continue;
            }
            if (!index) {
                r.unknown += (r.unknown.empty() ? "" : ", ") + json_quote(key) + ": " + json_text(value);
                continue;
            }
            good &= field(r, fields_of<R>()[*index], value, label, r.origin[*index]);
        }
        if (const Json* origins = item.find("origin"); origins && origins->type == Json::Type::Object)
            for (const auto& [key, value] : origins->members)
                if (const auto index = field_index(kind_of<R>(), key))
                    for (std::size_t o = 0; o < origin_names.size(); ++o)
                        if (origin_names[o] == value.text) r.origin[*index] = static_cast<Origin>(o);
        return good;
    }

    template <class R>
    bool field(R& r, const Field<R>& f, const Json& value, const std::string& label, Origin& origin) {
        origin = Origin::Typed;
        const auto where = [&] {
            return label + ", field \"" + std::string(f.key) + "\": ";
        };  // words only where they are needed

        const auto wrong = [&](const char* expected) {
            refuse(value.line,
                   where() + "expected " + expected + ", found " +
                       (value.type == Json::Type::Text || value.type == Json::Type::Number ? "\"" + value.text + "\""
                                                                                           : value.type_name()),
                   std::string(f.help) + ".");
            return false;
        };
        const Quantity q = quantity_in_file(r, f);
        const auto number = [&](const Json& j, Quantity quantity, double& si) {
            if (j.type == Json::Type::Null) {
                si = not_given;
                return true;
            }
            if (j.type != Json::Type::Number) return wrong("a number");
            if (!read_decimal(j.text, units_.unit(quantity).factor, si)) {
                refuse(j.line, where() + j.text + " is not a finite number", "Write a plain decimal number.");
                return false;
            }
            return true;
        };
        return std::visit(
            [&](auto m) {
                using T = std::remove_cvref_t<decltype(r.*m)>;
                if constexpr (std::is_same_v<T, double>) {
                    if (!number(value, q, r.*m)) return false;
                    FieldInfo info = f;
                    info.quantity = q;
                    if (const std::string fault = range_fault(info, r.*m, units_); !fault.empty())
                        warn(value.line, where() + fault + ".", "It is kept, and named among the findings.");
                    return true;
                } else if constexpr (std::is_same_v<T, std::string>) {
                    if (value.type != Json::Type::Text) return wrong("a text");
                    r.*m = value.text;
                    return true;
                } else if constexpr (std::is_same_v<T, bool>) {
                    if (value.type != Json::Type::Flag) return wrong("true or false");
                    r.*m = value.flag;
                    return true;
                } else if constexpr (std::is_same_v<T, int>) {
                    for (std::size_t c = 0; c < f.choices.size(); ++c)
                        if (value.type == Json::Type::Text && f.choices[c] == value.text) {
                            r.*m = static_cast<int>(c);
                            return true;
                        }
                    std::string expected = "one of";
                    for (const auto& c : f.choices) expected += " \"" + std::string(c) + "\"";
                    return wrong(expected.c_str());
                } else if constexpr (std::is_same_v<T, std::vector<double>>) {
                    if (value.type != Json::Type::List) return wrong("a list of numbers");
                    for (const Json& j : value.items) {
                        double si = 0;
                        if (j.type == Json::Type::Null || !number(j, q, si)) return wrong("numbers");
                        (r.*m).push_back(si);
                    }
                    return true;
                } else if constexpr (std::is_same_v<T, std::vector<Point>>) {
                    if (value.type != Json::Type::List) return wrong("a list of points");
                    for (const Json& j : value.items) {
                        Point p;
                        if (j.type != Json::Type::List || j.items.size() != 2 ||
                            !number(j.items[0], Quantity::Length, p.x) || !number(j.items[1], Quantity::Length, p.y))
                            return wrong("points as [x, y]");
                        (r.*m).push_back(p);
                    }
                    return true;
                } else {  // a reference
                    std::uint64_t id = 0;
                    if (value.type == Json::Type::Text) id = read_id(value.text);
                    if (id == 0 && value.type != Json::Type::Null) return wrong("an id of 16 hexadecimal digits");
                    if constexpr (requires { (r.*m).value; }) (r.*m).value = id;
                    else r.*m = id;
                    return true;
                }
            },
            f.member);
    }

    /// Names references that lead nowhere. They are kept: the findings say so too, and nothing is lost.
    void references() {
        const Project& p = out_.project;
        const auto dangling = [&](std::uint64_t row, const std::string& what, const char* field, std::uint64_t target) {
            warn(first_line_[row], what + ", field \"" + field + "\": no structure has the id " + id_text(target),
                 "It is kept as it is; correct the reference.");
        };
        for (const Pipe& pipe : p.pipes) {
            if (pipe.from && !p.structures.find(pipe.from.value))
                dangling(pipe.id, "pipe " + pipe_name(p, pipe), "from", pipe.from.value);
            if (pipe.to && !p.structures.find(pipe.to.value))
                dangling(pipe.id, "pipe " + pipe_name(p, pipe), "to", pipe.to.value);
        }
        for (const Catchment& c : p.catchments)
            if (c.structure && !p.structures.find(c.structure.value))
                dangling(c.id, "catchment " + c.name, "structure", c.structure.value);
    }

    ReadOutcome& out_;
    UnitSet units_;
    bool refused_ = false;
    std::unordered_map<std::uint64_t, int> first_line_;
};

}  // namespace

ReadOutcome read_project(const std::string& text) {
    ReadOutcome out;
    if (text.empty()) {
        out.problems.push_back(
            {1, 1, "the file is empty (0 bytes)", "If a copy exists, open that; else start a new project."});
        return out;
    }
    JsonOutcome json = parse_json(text);
    if (!json.ok) {
        out.problems.push_back({json.line, json.column, json.error, "Correct the text there; the file is untouched."});
        return out;
    }
    Reader(out).run(json.root);
    return out;
}

}  // namespace culvert
