// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/change_set.h"

#include <algorithm>

#include "core/base/contract.h"

namespace culvert {

ChangeSet ChangeSet::everything() {
    ChangeSet c;
    c.kinds_.set();
    c.resized_.set();
    c.geometry_ = c.topology_ = c.many_ = true;
    return c;
}

ChangeSet ChangeSet::of(const Edit& edit) {
    ChangeSet c;
    const auto touch = [&c](Kind kind, std::uint64_t id) {
        c.kinds_.set(static_cast<std::size_t>(kind));
        if (c.rows_.size() >= most_rows) c.many_ = true;
        else if (const ElementRef e{kind, id}; std::find(c.rows_.begin(), c.rows_.end(), e) == c.rows_.end())
            c.rows_.push_back(e);
    };
    for (const Change& change : edit.changes) {
        if (const Patch* p = std::get_if<Patch>(&change)) {
            touch(p->kind, p->id);
            const auto infos = infos_of(p->kind);
            const FieldInfo& field = *nth(infos, p->field);
            c.geometry_ |= field.key == "x" || field.key == "y" || std::holds_alternative<std::vector<Point>>(p->after);
            c.topology_ |= p->kind == Kind::Pipe && (field.key == "from" || field.key == "to");
            continue;
        }
        const AnyRow& row =
            std::holds_alternative<Insert>(change) ? std::get<Insert>(change).row : std::get<Delete>(change).row;
        std::visit(
            [&]<class R>(const R& r) {
                touch(kind_of<R>(), r.id);
                c.resized_.set(static_cast<std::size_t>(kind_of<R>()));
            },
            row);
        c.geometry_ = true;
        c.topology_ |= c.resizes(Kind::Structure) || c.resizes(Kind::Pipe);
    }
    return c;
}

ChangeSet& ChangeSet::operator|=(const ChangeSet& o) {
    kinds_ |= o.kinds_;
    resized_ |= o.resized_;
    geometry_ |= o.geometry_;
    topology_ |= o.topology_;
    many_ |= o.many_;
    for (const ElementRef e : o.rows_)
        if (std::find(rows_.begin(), rows_.end(), e) == rows_.end()) rows_.push_back(e);
    if (rows_.size() > most_rows) {
        rows_.clear();
        many_ = true;
    }
    return *this;
}

bool ChangeSet::touches(ElementRef e) const {
    return touches(e.kind) && (many_ || std::find(rows_.begin(), rows_.end(), e) != rows_.end());
}

}  // namespace culvert
