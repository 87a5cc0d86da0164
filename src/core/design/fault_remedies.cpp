// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/fault_remedies.h"

#include <algorithm>

#include "core/model/edit.h"

namespace culvert {

bool has_remedy(const Fault& fault) { return fault.element.kind == Kind::Pond && fault.title == "not routed"; }

std::vector<Remedy> fault_remedies(const Project& project, const Fault& fault) {
    std::vector<Remedy> list;
    if (!has_remedy(fault)) return list;
    Editing e(project, "Runoff by the modified rational method");
    e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::ModifiedRational);
    Remedy r;
    r.edit = e.take();
    r.text = "runoff by the modified rational method: the same C, Tc and rain, through time";
    Project after = project;
    apply(after, r.edit);
    const Network network = compile(after);
    r.mends = std::none_of(network.faults.begin(), network.faults.end(),
                           [&](const Fault& f) { return f.element == fault.element && f.title == fault.title; });
    r.gone = r.mends ? 1 : 0;
    if (r.mends) list.push_back(std::move(r));
    return list;
}

}  // namespace culvert
