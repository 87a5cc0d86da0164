// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_theme.h"

#include "app/desk/text.h"

namespace culvert::app {

std::vector<Colouring> colourings() {
    std::vector<Colouring> list{{"verdict", "Worst verdict", "Colour by the worst verdict of each element"}};
    for (const ResultOn on : {ResultOn::Link, ResultOn::Node})
        for (const ResultField& f : result_fields(on))
            if (!f.classes.empty())
                list.push_back(
                    {text(f.key), text(f.label), "Colour pipes by " + text(f.label) + ": " + text(f.help), &f});
    list.push_back({"service_level", "Service level", "Colour by the rarest event passed with all commoner ones"});
    list.push_back({"area_coefficient", "Catchments by C", "Fill catchments by their runoff coefficient", nullptr,
                    AreaFill::Coefficient});
    list.push_back(
        {"area_time", "Catchments by time", "Fill catchments by their time of concentration", nullptr, AreaFill::Time});
    return list;
}

Colouring colouring(const QString& key) {
    auto list = colourings();
    for (Colouring& c : list)
        if (c.key == key) return c;
    return list.front();
}

ResultClasses area_classes(AreaFill fill) {
    if (fill == AreaFill::Coefficient) return {{0.35, 0.55, 0.75}};
    return {{5 * 60, 10 * 60, 20 * 60}};
}
Quantity area_quantity(AreaFill fill) { return fill == AreaFill::Coefficient ? Quantity::Ratio : Quantity::Duration; }

}  // namespace culvert::app
