// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/edit.h"

namespace culvert {
namespace {

void write(Project& project, const Patch& p, bool forward) {
    with_row_type(p.kind, [&]<class R>(std::type_identity<R>) {
        R* row = project.table<R>().change(p.id);
        if (!row) return;
        set(*row, fields_of<R>()[p.field], forward ? p.after : p.before);
        row->origin[p.field] = forward ? p.origin_after : p.origin_before;
    });
}
/// A project has one row of settings, always.
template <class R>
constexpr bool comes_and_goes = !std::is_same_v<R, Settings>;
void put(Project& project, const AnyRow& any) {
    std::visit(
        [&]<class R>(const R& row) {
            if constexpr (comes_and_goes<R>) project.table<R>().insert(row);
        },
        any);
}
void take_out(Project& project, const AnyRow& any) {
    std::visit(
        [&]<class R>(const R& row) {
            if constexpr (comes_and_goes<R>) project.table<R>().erase(row.id);
        },
        any);
}

}  // namespace

Edit::Edit() = default;
Edit::~Edit() = default;
Edit::Edit(const Edit&) = default;
Edit::Edit(Edit&&) noexcept = default;
Edit& Edit::operator=(const Edit&) = default;
Edit& Edit::operator=(Edit&&) noexcept = default;

void apply(Project& project, const Edit& edit) {
    for (const Change& c : edit.changes) {
        if (const auto* p = std::get_if<Patch>(&c)) write(project, *p, true);
        else if (const auto* i = std::get_if<Insert>(&c)) put(project, i->row);
        else take_out(project, std::get<Delete>(c).row);
    }
}

void revert(Project& project, const Edit& edit) {
    for (auto c = edit.changes.rbegin(); c != edit.changes.rend(); ++c) {
        if (const auto* p = std::get_if<Patch>(&*c)) write(project, *p, false);
        else if (const auto* i = std::get_if<Insert>(&*c)) take_out(project, i->row);
        else put(project, std::get<Delete>(*c).row);
    }
}

bool Editing::set(Kind kind, std::uint64_t id, std::string_view key, Value value, Origin origin) {
    const auto index = field_index(kind, key);
    if (!index) return false;
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const R* row = project_.table<R>().find(id);
        if (!row) return false;
        const Field<R>& field = fields_of<R>()[*index];
        Patch patch{kind, id, *index, get(*row, field), std::move(value), row->origin[*index], origin};
        if (patch.before.index() != patch.after.index()) return false;
        if (const int* c = std::get_if<int>(&patch.after);
            c && (*c < 0 || *c >= static_cast<int>(field.choices.size())))
            return false;  // no choice of this field
        if (same_value(patch.before, patch.after) && patch.origin_before == origin) return true;
        write(project_, patch, true);
        edit_.changes.push_back(std::move(patch));
        return true;
    });
}

void Editing::remove(Kind kind, std::uint64_t id) {
    const auto drop_where = [&]<class R>(std::type_identity<R>, auto hangs) {
        std::vector<std::uint64_t> ids;
        for (const R& row : project_.table<R>())
            if (hangs(row)) ids.push_back(row.id);
        for (const std::uint64_t i : ids) remove(kind_of<R>(), i);
    };
    if (kind == Kind::Settings) return;
    if (kind == Kind::Structure) {
        const auto ends_here = [id](const auto& row) { return row.from.value == id || row.to.value == id; };
        drop_where(std::type_identity<Pipe>{}, ends_here);
        drop_where(std::type_identity<StreetPath>{}, ends_here);
        std::vector<std::uint64_t> freed;
        for (const Catchment& c : project_.catchments)
            if (c.structure.value == id) freed.push_back(c.id);
        for (const std::uint64_t c : freed) set(Kind::Catchment, c, "structure", std::uint64_t{0});
    }
    if (kind == Kind::Street) {
        drop_where(std::type_identity<StreetSection>{}, [id](const StreetSection& l) { return l.street.value == id; });
        std::vector<std::uint64_t> freed;
        for (const Structure& s : project_.structures)
            if (s.street.value == id) freed.push_back(s.id);
        for (const std::uint64_t s : freed) set(Kind::Structure, s, "street", std::uint64_t{0});
        freed.clear();
        for (const Catchment& c : project_.catchments)
            if (c.street.value == id) freed.push_back(c.id);
        for (const std::uint64_t c : freed) set(Kind::Catchment, c, "street", std::uint64_t{0});
    }
    if (kind == Kind::Catchment)
        drop_where(std::type_identity<LandCover>{}, [id](const LandCover& l) { return l.catchment.value == id; });
    if (kind == Kind::Event) {
        drop_where(std::type_identity<Release>{}, [id](const Release& r) { return r.event.value == id; });
        drop_where(std::type_identity<OutfallLevel>{}, [id](const OutfallLevel& l) { return l.event.value == id; });
        drop_where(std::type_identity<AcceptedFinding>{},
                   [id](const AcceptedFinding& a) { return a.event.value == id; });
    }
    if (kind == Kind::Structure)
        drop_where(std::type_identity<ProfileRun>{},
                   [id](const ProfileRun& r) { return r.from.value == id || r.to.value == id; });
    if (kind == Kind::Structure) {
        drop_where(std::type_identity<Pond>{}, [id](const Pond& p) { return p.structure.value == id; });
        drop_where(std::type_identity<PondOutlet>{}, [id](const PondOutlet& o) { return o.structure.value == id; });
        drop_where(std::type_identity<Release>{}, [id](const Release& r) { return r.structure.value == id; });
        std::vector<std::uint64_t> led;
        for (const PondOutlet& o : project_.outlets)
            if (o.to.value == id) led.push_back(o.id);
        for (const std::uint64_t o : led) set(Kind::PondOutlet, o, "to", std::uint64_t{0});
    }
    if (kind == Kind::Structure)
        drop_where(std::type_identity<OutfallLevel>{}, [id](const OutfallLevel& l) { return l.structure.value == id; });
    drop_where(std::type_identity<AcceptedFinding>{}, [id](const AcceptedFinding& a) { return a.element == id; });
    if (kind == Kind::Structure || kind == Kind::Pipe)
        drop_where(std::type_identity<Limit>{}, [id](const Limit& l) { return l.element == id; });
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        if (const R* row = project_.table<R>().find(id)) {
            edit_.changes.push_back(Delete{*row});
            project_.table<R>().erase(id);
        }
    });
}

}  // namespace culvert
