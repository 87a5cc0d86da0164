// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <map>
#include <set>
#include <unordered_map>

#include "core/base/numbers.h"
#include "core/base/words.h"
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
        int number = 0;
        if (!parse_int(version->text, number) && version->text.find_first_not_of("0123456789") != std::string::npos)
            return refuse(version->line, "format " + version->text.substr(0, 40) + " is not a whole number",
                          "Write " + std::to_string(format_version) + ".");
        if (number == 0 && version->text.find_first_not_of('0') != std::string::npos) number = format_version + 1;
        if (number > format_version)
            return refuse(version->line,
                          "format " + version->text.substr(0, 40) + " is newer than this program reads (" +
                              std::to_string(format_version) + ")",
                          "Update Calm Culvert; the file is untouched.");
        if (number < 1)
            return refuse(version->line, "format " + version->text + " does not exist", "Correct the version number.");
        if (number < format_version) out_.migrated_from = number;
        for (int v = number; v < format_version; ++v) migrations[v](root);
        root_ = &root;
        std::map<std::string, int> seen;
        for (const auto& [key, value] : root.members)
            if (const auto [at, fresh] = seen.emplace(key, value.line); !fresh)
                warn(value.line,
                     "\"" + printable(key.substr(0, 40)) + "\" is given twice, first on line " +
                         std::to_string(at->second),
                     "The rows of both are read; settings and single values are those of the first. Join them.");
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
            std::vector<std::string_view> tables{"settings"};
            for (std::size_t k = 0; k < kind_count; ++k) {
                const Kind kind = static_cast<Kind>(k);
                if (kind != Kind::Settings) tables.push_back(table_name(kind));
                if (kind == Kind::Settings || table_name(kind) != key) continue;
                known = true;
                if (value.type != Json::Type::List) {
                    refuse(value.line, "\"" + key + "\" must be a list, found " + value.type_name(),
                           "Write it as [ ... ].");
                    continue;
                }
                with_row_type(kind, [&, &list = value]<class R>(std::type_identity<R>) { table<R>(list); });
            }
            if (known) continue;
            if (const auto near = nearest_word(key, tables); !near.empty())
                warn(value.line, "\"" + printable(key) + "\" is no table: is \"" + std::string(near) + "\" meant?",
                     "It is kept as it is, and not used.");
            out_.project.unknown +=
                (out_.project.unknown.empty() ? "" : ",\n") + json_quote(key) + ": " + json_text(value);
        }
        out_.ok = !refused_;
        if (out_.ok) references();
    }

  private:
    /// What a message calls a row: its name, or for a pipe without one its ends, or its id. Made only when asked for.
    struct Label {
        const Reader& reader;
        const Json& row;
        const std::string& kind;
        [[nodiscard]] std::string text() const {
            const auto word = [this](const char* key) {
                const Json* j = row.find(key);
                return j ? j->text : std::string();
            };
            if (const std::string name = word("name"); !name.empty()) return kind + " " + printable(name);
            if (kind == "settings") return kind;
            const std::string from = reader.structure_named(word("from")), to = reader.structure_named(word("to"));
            if (!from.empty() && !to.empty()) return kind + " " + from + "–" + to;
            const std::string id = word("id");
            return id.empty() ? "a " + kind : kind + " with the id " + printable(id.substr(0, 40));
        }
    };

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
        const Json* id = item.find("id");
        const Label label{*this, item, what};
        r.id = id ? read_id(id->text) : 0;
        if (r.id == 0 && kind_of<R>() != Kind::Settings) {
            refuse(
                item.line,
                label.text() + ": id " +
                    (id ? "\"" + printable(id->text.substr(0, 40)) + "\" is not 16 hexadecimal digits" : "is missing"),
                "Give it an id such as \"" + id_text(random_id()) + "\".");
            return false;
        }
        bool good = true;
        if constexpr (std::is_same_v<R, Limit>)  // what it limits decides the unit of its value
            if (const Json* kind = item.find("kind"))
                good &= field(r, fields_of<R>()[*field_index(Kind::Limit, "kind")], *kind, label, r.origin[0]);
        std::array<int, most_fields> given{};  // line of each field
        std::size_t expected = 0;              // members mostly come in the order of the field table
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
                misspelt(key, value, infos, given, label);
                r.unknown += (r.unknown.empty() ? "" : ", ") + json_quote(key) + ": " + json_text(value);
                continue;
            }
            if (given[*index])
                warn(value.line,
                     label.text() + ", field \"" + key + "\" is given twice, first on line " +
                         std::to_string(given[*index]),
                     "The last one counts. Delete the other.");
            given[*index] = std::max(1, value.line);
            const Field<R>& f = fields_of<R>()[*index];
            std::visit(
                [&r](auto m) {
                    if constexpr (requires { (r.*m).push_back({}); } && !std::is_same_v<decltype(m), std::string R::*>)
                        (r.*m).clear();
                },
                f.member);
            good &= field(r, f, value, label, r.origin[*index]);
        }
        if (const Json* origins = item.find("origin"); origins && origins->type == Json::Type::Object)
            for (const auto& [key, value] : origins->members)
                if (const auto index = field_index(kind_of<R>(), key))
                    for (std::size_t o = 0; o < origin_names.size(); ++o)
                        if (origin_names[o] == value.text) r.origin[*index] = static_cast<Origin>(o);
        return good;
    }

    template <class R>
    bool field(R& r, const Field<R>& f, const Json& value, const Label& label, Origin& origin) {
        origin = Origin::Typed;
        const auto where = [&] {
            return label.text() + ", field \"" + std::string(f.key) + "\": ";
        };  // words only where they are needed
        const auto wrong = [&](const std::string& expected, const Json& found, const std::string& write) {
            refuse(found.line, where() + "expected " + expected + ", found " + found.in_words(), "Write " + write);
            return false;
        };
        const Quantity q = info_for(r, f).quantity;
        const auto number = [&](const Json& j, Quantity quantity, double& si, bool may_lack) {
            if (j.type == Json::Type::Null && may_lack) {
                si = not_given;
                return true;
            }
            if (j.type != Json::Type::Number) {
                const std::string unit(units_.unit(quantity).symbol);
                return wrong(
                    "a number" + (unit.empty() ? "" : " in " + unit), j,
                    std::string(may_lack ? "a plain number, or null where it is not known" : "a plain number") + ". " +
                        std::string(f.help));
            }
            if (!read_decimal(j.text, units_.unit(quantity).factor, si)) {
                refuse(j.line, where() + j.text.substr(0, 40) + " is too large to be a number", "Write a plain number");
                return false;
            }
            return true;
        };
        // Places out of reach are refused: no drawing and no polygon could hold them.
        const auto within_reach = [&](const Json& j, const Value& v) {
            const std::string fault = value_fault(f, v, units_);
            if (!fault.empty())
                refuse(j.line, where() + fault, "Is it in another unit? Correct it in the file; the file is untouched");
            return fault.empty();
        };
        return std::visit(
            [&](auto m) {
                if constexpr (std::is_same_v<decltype(m), Choice<R>>) {
                    for (std::size_t c = 0; c < f.choices.size(); ++c)
                        if (value.type == Json::Type::Text && f.choices[c] == value.text) {
                            m.set(r, static_cast<int>(c));
                            return true;
                        }
                    std::string known;
                    for (const auto& c : f.choices) known += (known.empty() ? "\"" : ", \"") + std::string(c) + "\"";
                    const auto near = nearest_word(value.text, f.choices);
                    return wrong("one of " + known, value,
                                 near.empty() ? "one of them, in quotes" : "\"" + std::string(near) + "\"");
                } else if constexpr (std::is_same_v<decltype(m), double R::*>) {
                    if (!number(value, q, r.*m, true)) return false;
                    if (f.key == "x" || f.key == "y") return within_reach(value, r.*m);
                    if (const std::string fault = range_fault(info_for(r, f), r.*m, units_); !fault.empty())
                        warn(value.line, where() + fault, "It is kept, and named among the findings");
                    return true;
                } else if constexpr (std::is_same_v<decltype(m), std::string R::*>) {
                    if (value.type != Json::Type::Text)
                        return wrong("a text", value, "it in quotes. " + std::string(f.help));
                    r.*m = value.text;
                    return true;
                } else if constexpr (std::is_same_v<decltype(m), bool R::*>) {
                    if (value.type != Json::Type::Flag)
                        return wrong("true or false", value, "true or false, without quotes. " + std::string(f.help));
                    r.*m = value.flag;
                    return true;
                } else if constexpr (std::is_same_v<decltype(m), std::vector<double> R::*>) {
                    if (value.type != Json::Type::List)
                        return wrong("a list of numbers", value, "them in brackets, for example [5, 10, 20]");
                    for (const Json& j : value.items) {
                        double si = 0;
                        if (!number(j, q, si, false)) return false;
                        (r.*m).push_back(si);
                    }
                    if (const std::string fault = value_fault(info_for(r, f), r.*m, units_); !fault.empty())
                        warn(value.line, where() + fault, "It is kept, and named among the findings");
                    return true;
                } else if constexpr (std::is_same_v<decltype(m), std::vector<Point> R::*>) {
                    if (value.type != Json::Type::List)
                        return wrong("a list of points", value, "them as [[x, y], [x, y]]");
                    for (const Json& j : value.items) {
                        Point p;
                        if (j.type != Json::Type::List || j.items.size() != 2)
                            return wrong("a point", j, "it as [x, y]");
                        if (!number(j.items[0], Quantity::Length, p.x, false) ||
                            !number(j.items[1], Quantity::Length, p.y, false))
                            return false;
                        (r.*m).push_back(p);
                    }
                    return within_reach(value, r.*m);
                } else {  // a reference
                    std::uint64_t id = 0;
                    if (value.type == Json::Type::Text) id = read_id(value.text);
                    if (id == 0 && value.type != Json::Type::Null && value.text != id_text(0))
                        return wrong("an id of 16 hexadecimal digits", value,
                                     "the id of the element it refers to, or null for none");
                    if constexpr (requires { (r.*m).value; }) (r.*m).value = id;
                    else r.*m = id;
                    return true;
                }
            },
            f.member);
    }

    /// Names references that lead nowhere. They are kept: the findings say so too, and nothing is lost.
    void references() {
        for (const DanglingReference& d : dangling_references(out_.project))
            warn(first_line_[d.id],
                 std::string(kind_name(d.kind)) + " " + element_name(out_.project, d.kind, d.id) + ", field \"" +
                     std::string(infos_of(d.kind)[d.field]->key) + "\": no " + std::string(refers_name(d.refers_to)) +
                     " has the id " + id_text(d.target),
                 "It is kept as it is; correct the reference");
    }

    /// A member that is nearly a field which the row lacks.
    template <class Given>
    void misspelt(const std::string& key, const Json& value, std::span<const FieldInfo* const> infos,
                  const Given& given, const Label& label) {
        std::vector<std::string_view> keys;
        for (std::size_t i = 0; i < infos.size(); ++i)
            if (!given[i]) keys.push_back(infos[i]->key);
        if (const auto near = nearest_word(key, keys); !near.empty())
            warn(value.line,
                 label.text() + ": \"" + printable(key) + "\" is no field of it: is \"" + std::string(near) +
                     "\" meant?",
                 "It is kept as it is, and not used");
    }

    /// Name of the structure with an id, from the file's tree, read or not.
    [[nodiscard]] std::string structure_named(const std::string& id) const {
        const Json* list = id.empty() || !root_ ? nullptr : root_->find("structures");
        if (list)
            for (const Json& s : list->items) {
                const Json *its = s.find("id"), *name = s.find("name");
                if (its && name && its->text == id) return printable(name->text);
            }
        return {};
    }

    ReadOutcome& out_;
    UnitSet units_;
    const Json* root_ = nullptr;
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
