// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/quantities.h"

#include <cmath>
#include <map>

#include "core/base/contract.h"
#include "core/base/numbers.h"
#include "core/design/branches.h"
#include "core/design/pipe_fit.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

/// Classes of depth of a trench or a structure.
constexpr double classes[] = {0, 1.5, 3, 4.5, 6};
int class_of(double depth) {
    int k = 0;
    while (k + 1 < static_cast<int>(std::size(classes)) && depth >= nth(classes, k + 1)) ++k;
    return k;
}

struct Key {
    QuantityLine::Group group;
    Status status;
    std::string what;
    int depth;
    auto operator<=>(const Key&) const = default;
};

class Counting {
  public:
    QuantityLine& line(QuantityLine::Group group, Status status, const std::string& what, double depth) {
        const int k = class_of(depth);
        QuantityLine& l = lines_[{group, status, what, k}];
        l.group = group;
        l.status = status;
        l.what = what;
        l.depth_from = nth(classes, k);
        l.depth_to = k + 1 < static_cast<int>(std::size(classes)) ? nth(classes, k + 1) : not_given;
        return l;
    }
    void add(QuantityLine& l, ElementRef element, double amount, double price) {
        ++l.count;
        l.amount += amount;
        l.elements.push_back(element);
        if (l.status != Status::Proposed || std::isnan(price)) return;
        l.cost = (std::isnan(l.cost) ? 0 : l.cost) + amount * price;
        l.price = l.cost / l.amount;  // of those that differ by depth the mean
    }
    std::vector<QuantityLine> take() {
        std::vector<QuantityLine> out;
        for (auto& [key, line] : lines_) out.push_back(std::move(line));
        return out;
    }

  private:
    std::map<Key, QuantityLine> lines_;
};

/// Of a structure: its type's, and for each metre of its depth.
double price_of(const StructureType* type, double depth) {
    if (!type || (std::isnan(type->price) && std::isnan(type->depth_price))) return not_given;
    const double one = std::isnan(type->price) ? 0 : type->price;
    return std::isnan(type->depth_price) || !(depth > 0) ? one : one + type->depth_price * depth;
}

}  // namespace

Quantities quantities(const Project& project) {
    Quantities out;
    Counting counting;
    const UnitSet u = units_of(project);
    for (const Pipe& p : project.pipes) {
        const ElementRef element{Kind::Pipe, p.id};
        const Structure *a = project.structures.find(p.from.value), *b = project.structures.find(p.to.value);
        const double volume = trench_volume(project, p), length = length_of(project, p);
        if (!a || !b || std::isnan(volume) || std::isnan(length)) {
            out.left_out.push_back(element);
            continue;
        }
        const double depth = (a->rim - p.invert_from + b->rim - p.invert_to) / 2 + p.wall;
        const std::string what = (p.material.empty() ? std::string("pipe") : p.material) + ", " + size_words(u, p);
        counting.add(counting.line(QuantityLine::Group::Pipe, p.status, what, depth), element,
                     length * std::max(1.0, std::floor(p.barrels)), price_of_size(project, size_of(p)));
        if (p.status == Status::Proposed)
            counting.add(counting.line(QuantityLine::Group::Excavation, p.status, "trench", depth), element,
                         std::max(volume, 0.0), project.settings().excavation_price);
    }
    for (const Structure& s : project.structures) {
        const double depth = structure_depth(project, s);
        const std::string what = s.type.empty() ? std::string(structure_word(s.kind)) : s.type;
        counting.add(counting.line(QuantityLine::Group::Structure, s.status, what, std::isnan(depth) ? 0 : depth),
                     {Kind::Structure, s.id}, 1, price_of(type_of(project, s), depth));
    }
    out.lines = counting.take();
    for (const QuantityLine& l : out.lines)
        if (!std::isnan(l.cost)) out.cost += l.cost;
    return out;
}

Quantity price_quantity(QuantityLine::Group group) {
    switch (group) {
        case QuantityLine::Group::Pipe: return Quantity::PricePerLength;
        case QuantityLine::Group::Excavation: return Quantity::PricePerVolume;
        case QuantityLine::Group::Structure: break;
    }
    return Quantity::None;
}
std::string amount_words(const QuantityLine& line, const UnitSet& units) {
    if (line.group == QuantityLine::Group::Pipe) return units.text(line.amount, Quantity::Length);
    if (line.group == QuantityLine::Group::Structure) return std::to_string(line.count);
    // As many units as the price is of: "/yd³" prices cubic yards.
    const Unit& per = units.unit(Quantity::PricePerVolume);
    return fixed(line.amount * per.factor, 0) + " " + std::string(per.symbol.substr(1));
}

std::string depth_words(const QuantityLine& line, const UnitSet& units) {
    if (std::isnan(line.depth_to)) return "deeper than " + units.text(line.depth_from, Quantity::Length);
    return units.number(line.depth_from, Quantity::Length) + " to " + units.text(line.depth_to, Quantity::Length);
}

}  // namespace culvert
