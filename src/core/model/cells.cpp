// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/cells.h"

#include <set>

namespace culvert {

FieldForm form_of(Kind kind, std::size_t field) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const Member<R>& m = fields_of<R>()[field].member;
        if (std::holds_alternative<double R::*>(m)) return FieldForm::Number;
        if (std::holds_alternative<std::string R::*>(m)) return FieldForm::Words;
        if (std::holds_alternative<Choice<R>>(m)) return FieldForm::Choice;
        if (std::holds_alternative<bool R::*>(m)) return FieldForm::YesNo;
        if (std::holds_alternative<std::vector<Point> R::*>(m)) return FieldForm::Places;
        return std::holds_alternative<std::vector<double> R::*>(m) ? FieldForm::Numbers : FieldForm::Reference;
    });
}

bool has_row(const Project& project, Kind kind, std::uint64_t id) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) { return project.table<R>().find(id) != nullptr; });
}

std::string name_of_row(const Project& project, std::uint64_t id) {
    for (std::size_t k = 0; k < kind_count; ++k)
        if (has_row(project, static_cast<Kind>(k), id)) return element_name(project, static_cast<Kind>(k), id);
    return {};
}
std::vector<std::uint64_t> ids_of(const Project& project, Kind kind) {
    std::vector<std::uint64_t> ids;
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        ids.reserve(project.table<R>().size());
        for (const R& row : project.table<R>()) ids.push_back(row.id);
    });
    return ids;
}

Value value_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) -> Value {
        const R* row = project.table<R>().find(id);
        static const R blank{};
        return get(row ? *row : blank, fields_of<R>()[field]);
    });
}

Value blank_value(Kind kind, std::size_t field) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) { return get(R{}, fields_of<R>()[field]); });
}

double number_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const R* row = project.table<R>().find(id);
        const auto* m = std::get_if<double R::*>(&fields_of<R>()[field].member);
        return row && m ? row->*(*m) : not_given;
    });
}

Origin origin_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const R* row = project.table<R>().find(id);
        return row ? row->origin[field] : Origin::Default;
    });
}

bool name_taken(const Project& project, Kind kind, std::string_view name, std::uint64_t except) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        if constexpr (requires(R r) { r.name; })
            for (const R& other : project.table<R>())
                if (other.id != except && other.name == name) return true;
        return false;
    });
}

std::string free_name(const Project& project, Kind kind, const std::string& like) {
    std::set<std::string> used;
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        if constexpr (requires(R r) { r.name; })
            for (const R& row : project.table<R>()) used.insert(row.name);
    });
    std::string name = like;
    for (int k = 2; used.contains(name); ++k) name = like + " " + std::to_string(k);
    return name;
}

Edit one_more(const Project& project, Kind kind, std::uint64_t like, std::uint64_t& id) {
    Editing e(project, "Add a " + std::string(kind_name(kind)));
    id = random_id();
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const R* model = project.table<R>().find(like);
        R row = model ? *model : R{};
        row.id = id;
        row.foreign.clear();
        if constexpr (requires { row.name; })
            row.name = free_name(project, kind, row.name.empty() ? std::string(kind_name(kind)) : row.name);
        e.insert(std::move(row));
    });
    return e.take();
}

}  // namespace culvert
