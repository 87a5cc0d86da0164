// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/variant.h"
#include "core/base/contract.h"
#include "core/model/cells.h"

#include <map>

namespace culvert {
namespace {

Kind kind_of_row(const AnyRow& row) { return static_cast<Kind>(row.index()); }
std::uint64_t id_of_row(const AnyRow& row) {
    return std::visit([](const auto& r) { return r.id; }, row);
}
using RowKey = std::pair<Kind, std::uint64_t>;
RowKey key_of(const Change& c) {
    if (const auto* p = std::get_if<Patch>(&c)) return {p->kind, p->id};
    if (const auto* i = std::get_if<Insert>(&c)) return {kind_of_row(i->row), id_of_row(i->row)};
    const AnyRow& row = std::get<Delete>(c).row;
    return {kind_of_row(row), id_of_row(row)};
}

void set_in_row(AnyRow& any, const Patch& p) {
    std::visit(
        [&]<class R>(R& row) {
            set(row, fields_of<R>()[p.field], p.after);
            row.origin[p.field] = p.origin_after;
        },
        any);
}
/// A row with what was patched before set back, so that a delete remembers the base's row.
void unpatch_in_row(AnyRow& any, const Patch& p) {
    std::visit(
        [&]<class R>(R& row) {
            set(row, fields_of<R>()[p.field], p.before);
            row.origin[p.field] = p.origin_before;
        },
        any);
}

}  // namespace

Edit composed(const Edit& overlay, const Edit& next) {
    Edit out;
    out.name = overlay.name;
    out.unread = overlay.unread;
    std::vector<std::optional<Change>> list;
    for (const Change& c : overlay.changes) list.emplace_back(c);
    std::map<RowKey, std::vector<std::size_t>> of_row;
    for (std::size_t i = 0; i < list.size(); ++i) of_row[key_of(*list[i])].push_back(i);
    for (const Change& c : next.changes) {
        auto& places = of_row[key_of(c)];
        std::erase_if(places, [&](std::size_t i) { return !list[i]; });
        const auto add = [&](Change change) {
            places.push_back(list.size());
            list.emplace_back(std::move(change));
        };
        Insert* inserted = nullptr;
        Delete* deleted = nullptr;
        for (const std::size_t i : places) {
            if (auto* x = std::get_if<Insert>(&*list[i])) inserted = x;
            if (auto* x = std::get_if<Delete>(&*list[i])) deleted = x;
        }
        if (const auto* p = std::get_if<Patch>(&c)) {
            if (inserted) {
                set_in_row(inserted->row.change(), *p);
                continue;
            }
            Patch* same = nullptr;
            for (const std::size_t i : places)
                if (auto* x = std::get_if<Patch>(&*list[i]); x && x->field == p->field) same = x;
            if (!same) {
                add(*p);
                continue;
            }
            same->after = p->after;
            same->origin_after = p->origin_after;
            if (same_value(same->before, same->after) && same->origin_before == same->origin_after)
                for (const std::size_t i : places)
                    if (std::get_if<Patch>(&*list[i]) == same) {
                        list[i].reset();
                        break;
                    }
        } else if (const auto* i = std::get_if<Insert>(&c)) {
            if (!deleted) {
                add(*i);
                continue;
            }
            // Deleted and inserted again: patches of what differs.
            const AnyRow was = deleted->row;
            for (const std::size_t k : places)
                if (std::get_if<Delete>(&*list[k]) == deleted) list[k].reset();
            std::visit(
                [&]<class R>(const R& now) {
                    const R& old = std::get<R>(was);
                    for (std::size_t f = 0; f < fields_of<R>().size(); ++f) {
                        const auto& field = fields_of<R>()[f];
                        if (!same_value(get(old, field), get(now, field)) || old.origin[f] != now.origin[f])
                            add(Patch{kind_of<R>(), now.id, f, get(old, field), get(now, field), old.origin[f],
                                      now.origin[f]});
                    }
                },
                i->row.get());
        } else {
            Delete d = std::get<Delete>(c);
            for (const std::size_t k : places) {
                if (const auto* p2 = std::get_if<Patch>(&*list[k])) unpatch_in_row(d.row.change(), *p2);
                list[k].reset();
            }
            if (!inserted) add(std::move(d));
        }
    }
    for (auto& c : list)
        if (c) out.changes.push_back(std::move(*c));
    return out;
}

Project with_overlay(const Project& base, const Edit& overlay, std::vector<Conflict>* conflicts) {
    Project p = base;
    for (std::size_t i = 0; i < overlay.changes.size(); ++i) {
        const Change& c = overlay.changes[i];
        if (const auto* patch = std::get_if<Patch>(&c)) {
            with_row_type(patch->kind, [&]<class R>(std::type_identity<R>) {
                const R* row = p.table<R>().find(patch->id);
                if (!row) {
                    if (conflicts)
                        conflicts->push_back(
                            {patch->kind, patch->id, patch->field, true, patch->before, {}, patch->after, i});
                    return;
                }
                const auto& field = fields_of<R>()[patch->field];
                const Value now = get(*row, field);
                if (conflicts && !same_value(now, patch->before) && !same_value(now, patch->after))
                    conflicts->push_back(
                        {patch->kind, patch->id, patch->field, false, patch->before, now, patch->after, i});
                R* own = p.table<R>().change(patch->id);
                set(*own, field, patch->after);
                own->origin[patch->field] = patch->origin_after;
            });
        } else if (const auto* insert = std::get_if<Insert>(&c)) {
            std::visit(
                [&]<class R>(const R& row) {
                    if constexpr (!std::is_same_v<R, Settings>) p.table<R>().insert(row);
                },
                insert->row.get());
        } else {
            std::visit(
                [&]<class R>(const R& row) {
                    const R* now = p.table<R>().find(row.id);
                    if (!now || std::is_same_v<R, Settings>) return;  // gone on both sides: agreed
                    if (conflicts && !(*now == row))
                        conflicts->push_back({kind_of<R>(), row.id, 0, true, {}, {}, {}, i});
                    p.table<R>().erase(row.id);
                },
                std::get<Delete>(c).row.get());
        }
    }
    return p;
}

Edit settled(const Edit& overlay, const Project& base, const Conflict& conflict, bool mine) {
    Edit out = overlay;
    if (conflict.change >= out.changes.size()) return out;
    Change& c = out.changes[conflict.change];
    if (!mine) {
        out.changes.erase(out.changes.begin() + static_cast<std::ptrdiff_t>(conflict.change));
        return out;
    }
    if (auto* patch = std::get_if<Patch>(&c)) {
        if (conflict.whole_row) {  // the row is gone from the base: the change has nothing to hold on to
            out.changes.erase(out.changes.begin() + static_cast<std::ptrdiff_t>(conflict.change));
            return out;
        }
        patch->before = conflict.base;
    } else if (auto* gone = std::get_if<Delete>(&c)) {
        std::visit(
            [&]<class R>(R& row) {
                if (const R* now = base.table<R>().find(row.id)) row = *now;
            },
            gone->row.change());
    }
    return out;
}

Edit edit_between(const Project& before, const Project& after, std::string name) {
    Edit out;
    out.name = std::move(name);
    for (std::size_t k = 0; k < kind_count; ++k)
        with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
            const auto &a = before.table<R>(), &b = after.table<R>();
            if (a.same(b)) return;
            for (const R& row : a)
                if (!b.find(row.id)) out.changes.push_back(Delete{row});
            for (const R& row : b) {
                const R* old = a.find(row.id);
                if (!old) {
                    out.changes.push_back(Insert{row});
                    continue;
                }
                for (std::size_t f = 0; f < fields_of<R>().size(); ++f) {
                    const auto& field = fields_of<R>()[f];
                    if (!same_value(get(*old, field), get(row, field)) || old->origin[f] != row.origin[f])
                        out.changes.push_back(Patch{kind_of<R>(), row.id, f, get(*old, field), get(row, field),
                                                    old->origin[f], row.origin[f]});
                }
            }
        });
    return out;
}

std::string value_text(const Project& project, Kind kind, std::size_t field, const Value& value) {
    const FieldInfo& info = *infos_of(kind)[field];
    return std::visit(
        [&]<class T>(const T& v) -> std::string {
            if constexpr (std::is_same_v<T, double>) return v != v ? "–" : units_of(project).text(v, info.quantity);
            else if constexpr (std::is_same_v<T, std::string>) return v.empty() ? "–" : v.substr(0, 60);
            else if constexpr (std::is_same_v<T, int>)
                return v >= 0 && static_cast<std::size_t>(v) < info.choices.size() ? std::string(nth(info.choices, v))
                                                                                   : std::to_string(v);
            else if constexpr (std::is_same_v<T, bool>) return v ? "yes" : "no";
            else if constexpr (std::is_same_v<T, std::uint64_t>) {
                if (!v) return "–";
                const std::string name = name_of_row(project, v);
                return name.empty() ? id_text(v) : name;
            } else return std::to_string(v.size()) + (v.size() == 1 ? " value" : " values");
        },
        value);
}

}  // namespace culvert
