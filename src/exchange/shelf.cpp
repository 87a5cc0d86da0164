// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/shelf.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "core/model/variant.h"

namespace culvert {
namespace {

constexpr std::array<std::string_view, 17> methods{
    "least_time",   "travel_velocity", "hold_flow",      "capacity_basis",   "flooded_level", "loss_inlet",
    "loss_manhole", "loss_joint",      "default_cover",  "default_slope",    "default_drop",  "near_share",
    "loss_by",      "bend_loss",       "expansion_loss", "contraction_loss", "matching"};

constexpr std::size_t always = 12;  ///< of them: every set has had these
/// Whether a set says something about a method; those of an earlier version do not about later ones.
bool says(const Project& set, std::string_view key) {
    const auto at = std::find(methods.begin(), methods.end(), key);
    return at - methods.begin() < static_cast<std::ptrdiff_t>(always) ||
           set.settings().origin[*field_index(Kind::Settings, key)] != Origin::Default;
}
Project blank(const Project& like) {
    Project p;
    p.settings_rows.change(settings_id)->system = like.settings().system;
    return p;
}
template <class R, class KeyOf>
void bring(Editing& e, const Table<R>& mine, const Table<R>& theirs, KeyOf key_of) {
    std::map<decltype(key_of(R{})), std::uint64_t> have;
    for (const R& row : mine) have.emplace(key_of(row), row.id);
    for (R row : theirs) {
        const auto at = have.find(key_of(row));
        if (at == have.end()) {
            if (mine.find(row.id)) row.id = random_id();
            e.insert(row);
            continue;
        }
        for (const Field<R>& f : fields_of<R>())
            e.set(kind_of<R>(), at->second, f.key, get(row, f),
                  row.origin[static_cast<std::size_t>(&f - fields_of<R>().data())]);
    }
}
auto size_key(const PipeSize& s) {
    return std::tuple(s.material, s.shape, std::lround(s.size * 1e5),
                      std::isnan(s.width) ? 0L : std::lround(s.width * 1e5));
}

}  // namespace

std::span<const std::string_view> method_keys() { return methods; }

Project criteria_of(const Project& project, const std::string& name, const std::string& version,
                    const std::string& source) {
    Project p = blank(project);
    Settings* s = p.settings_rows.change(settings_id);
    s->title = name;
    s->criteria = version.empty() ? name : name + ", " + version;
    s->note = source;
    for (const char* key : {"title", "criteria", "note"}) s->origin[*field_index(Kind::Settings, key)] = Origin::Typed;
    for (const std::string_view key : methods) {
        const std::size_t i = *field_index(Kind::Settings, key);
        const auto& f = fields_of<Settings>()[i];
        set(*s, f, get(project.settings(), f));
        s->origin[i] = Origin::Typed;
    }
    for (const Limit& l : project.limits)
        if (l.element == 0 && l.active) p.limits.insert(l);
    p.finding_ranks = project.finding_ranks;
    return p;
}

Edit criteria_edit(const Project& project, const Project& criteria) {
    Editing e(project, "Criteria " + criteria.settings().criteria);
    for (const std::string_view key : methods) {
        const auto& f = fields_of<Settings>()[*field_index(Kind::Settings, key)];
        if (says(criteria, key) && !same_value(get(project.settings(), f), get(criteria.settings(), f)))
            e.set(Kind::Settings, settings_id, key, get(criteria.settings(), f), Origin::Catalogue);
    }
    e.set(Kind::Settings, settings_id, "criteria", criteria.settings().criteria, Origin::Catalogue);
    std::map<std::tuple<LimitKind, std::string, EventRole>, std::uint64_t> have;  // a limit may differ by system
    for (const Limit& l : project.limits)
        if (l.element == 0) have.emplace(std::tuple{l.kind, l.group, l.system}, l.id);
    std::map<std::uint64_t, bool> kept;
    for (Limit l : criteria.limits) {
        if (l.element != 0) continue;
        const auto at = have.find({l.kind, l.group, l.system});
        if (at == have.end()) {
            if (project.limits.find(l.id)) l.id = random_id();
            e.insert(l);
            continue;
        }
        kept[at->second] = true;
        const Limit* mine = project.limits.find(at->second);
        if (!same_value(mine->value, l.value)) e.set(Kind::Limit, at->second, "value", l.value, Origin::Catalogue);
        if (mine->active != l.active) e.set(Kind::Limit, at->second, "active", l.active, Origin::Catalogue);
        if (mine->source != l.source) e.set(Kind::Limit, at->second, "source", l.source, Origin::Catalogue);
    }
    for (const auto& [key, id] : have)
        if (!kept.contains(id) && project.limits.find(id)->active)
            e.set(Kind::Limit, id, "active", false, Origin::Catalogue);
    // Ranks of findings are the set's: what it does not name has its usual one again.
    std::map<std::string, const FindingRank*> wanted;
    for (const FindingRank& r : criteria.finding_ranks) wanted[r.finding] = &r;
    for (const FindingRank& r : project.finding_ranks) {
        const auto at = wanted.find(r.finding);
        if (at == wanted.end()) {
            e.remove(Kind::FindingRank, r.id);
            continue;
        }
        if (at->second->rank != r.rank) e.set(Kind::FindingRank, r.id, "rank", at->second->rank, Origin::Catalogue);
        if (at->second->source != r.source)
            e.set(Kind::FindingRank, r.id, "source", at->second->source, Origin::Catalogue);
        wanted.erase(at);
    }
    for (const auto& [finding, rank] : wanted) {
        FindingRank row = *rank;
        if (project.finding_ranks.find(row.id)) row.id = random_id();
        e.insert(row);
    }
    return e.take();
}

std::vector<std::string> criteria_differences(const Project& a, const Project& b) {
    std::vector<std::string> out;
    const UnitSet u = units_of(b);
    std::map<std::tuple<LimitKind, std::string, EventRole>, std::pair<double, double>> limits;
    const auto gather = [&](const Project& p, double std::pair<double, double>::*side) {
        for (const Limit& l : p.limits)
            if (l.element == 0) {
                auto [at, fresh] = limits.try_emplace({l.kind, l.group, l.system}, not_given, not_given);
                at->second.*side = l.active ? l.value : not_given;
            }
    };
    gather(a, &std::pair<double, double>::first);
    gather(b, &std::pair<double, double>::second);
    for (const auto& [key, pair] : limits) {
        if (same_value(pair.first, pair.second)) continue;
        const Quantity q = limit_quantity(std::get<LimitKind>(key));
        const auto shown = [&](double v) { return std::isnan(v) ? std::string("off") : u.text(v, q); };
        out.push_back(std::string(limit_names()[static_cast<std::size_t>(std::get<LimitKind>(key))]) +
                      (std::get<std::string>(key).empty() ? "" : " of group " + std::get<std::string>(key)) +
                      (std::get<EventRole>(key) == EventRole::Minor   ? " in the minor system"
                       : std::get<EventRole>(key) == EventRole::Major ? " in the major system"
                                                                      : "") +
                      ": " + shown(pair.second) + ", was " + shown(pair.first));
    }
    std::map<std::string, std::array<std::string, 2>> ranks;
    const std::size_t rank_field = *field_index(Kind::FindingRank, "rank");
    const auto rank_words = [&](const Project& p, std::size_t side) {
        for (const FindingRank& r : p.finding_ranks)
            ranks[r.finding][side] =
                value_text(p, Kind::FindingRank, rank_field, get(r, fields_of<FindingRank>()[rank_field]));
    };
    rank_words(a, 0);
    rank_words(b, 1);
    for (auto& [finding, sides] : ranks) {
        if (sides[0] == sides[1]) continue;
        for (std::string& s : sides)
            if (s.empty()) s = "its usual rank";
        out.push_back("finding \"" + finding + "\": " + sides[1] + ", was " + sides[0]);
    }
    for (const std::string_view key : methods) {
        const std::size_t i = *field_index(Kind::Settings, key);
        const auto& f = fields_of<Settings>()[i];
        const Value x = get(a.settings(), f), y = get(b.settings(), f);
        if (says(b, key) && !same_value(x, y))
            out.push_back(std::string(f.label) + ": " + value_text(b, Kind::Settings, i, y) + ", was " +
                          value_text(b, Kind::Settings, i, x));
    }
    return out;
}

Project library_with(const Project& library, const Project& project, LibraryParts parts) {
    Project out = library;
    if (parts.sizes) out.sizes = project.sizes;
    if (parts.types) out.structure_types = project.structure_types;
    if (parts.rain) out.events = project.events;
    return out;
}

Edit library_edit(const Project& project, const Project& library, LibraryParts parts) {
    Editing e(project, "Bring in from the library");
    if (parts.sizes) bring(e, project.sizes, library.sizes, size_key);
    if (parts.types)
        bring(e, project.structure_types, library.structure_types, [](const StructureType& t) { return t.name; });
    if (parts.rain) bring(e, project.events, library.events, [](const RainEvent& r) { return r.name; });
    return e.take();
}

std::vector<std::string> in_words(const Project& project, const Edit& edit, std::size_t most) {
    std::vector<std::string> out;
    for (const Change& c : edit.changes) {
        if (out.size() >= most) {
            out.push_back("and " + std::to_string(edit.changes.size() - most) + " more");
            break;
        }
        if (const auto* p = std::get_if<Patch>(&c)) {
            std::string name = element_name(project, p->kind, p->id);
            // "release of P1" says what it is.
            const std::string kind(kind_name(p->kind)), last = kind.substr(kind.rfind(' ') + 1);
            if (name.find(last) == std::string::npos) name = kind + " " + name;
            out.push_back(name + ": " + std::string(infos_of(p->kind)[p->field]->label) + " " +
                          value_text(project, p->kind, p->field, p->after) + ", was " +
                          value_text(project, p->kind, p->field, p->before));
        } else {
            const AnyRow& any = std::holds_alternative<Insert>(c) ? std::get<Insert>(c).row : std::get<Delete>(c).row;
            const Kind kind = static_cast<Kind>(any.index());
            const std::string name = std::visit(
                [&]<class R>(const R& row) {
                    if constexpr (std::is_same_v<R, PipeSize>)
                        return row.material + " " + units_of(project).text(row.size, Quantity::Size);
                    else if constexpr (std::is_same_v<R, Pipe>) return pipe_name(project, row);
                    else if constexpr (std::is_same_v<R, Limit>)
                        return std::string(limit_names()[static_cast<std::size_t>(row.kind)]);
                    else if constexpr (requires { row.name; }) return row.name;
                    else if constexpr (requires { row.structure; })
                        return "of " + element_name(project, Kind::Structure, row.structure.value);
                    else return std::string();
                },
                any);
            out.push_back(std::string(std::holds_alternative<Insert>(c) ? "new " : "deleted ") +
                          std::string(kind_name(kind)) + " " + name);
        }
    }
    return out;
}

}  // namespace culvert
