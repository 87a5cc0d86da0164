// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/project.h"

/// What is to be built, counted and priced.
///
/// Pipes by material, shape and size with their length, by the mean depth of their trench; excavation by the same
/// depths, from the ground line between the rims to the bottom of the bedding; structures by type and depth. What
/// exists costs nothing and is counted apart, as is what is abandoned. Prices are the project's: of a cubic metre dug,
/// and of a metre of pipe a metre wide; of structures those of their types, for one and for each metre of its depth.
namespace culvert {

struct QuantityLine {
    enum class Group { Pipe, Excavation, Structure } group = Group::Pipe;
    Status status = Status::Proposed;
    std::string what;             ///< "concrete, circular 450 mm"
    double depth_from = 0;        ///< class of depth, m; to the next one
    double depth_to = not_given;  ///< NaN: deeper
    int count = 0;
    double amount = 0;         ///< m of pipe, m3 of excavation, or the count
    double price = not_given;  ///< of one of it
    double cost = not_given;   ///< NaN: it has no price
    std::vector<ElementRef> elements;
};
struct Quantities {
    std::vector<QuantityLine> lines;   ///< by group, status, what, depth
    double cost = 0;                   ///< of what is proposed
    std::vector<ElementRef> left_out;  ///< pipes without levels, rims or places
};
Quantities quantities(const Project& project);
/// Unit of a line's price; of what is counted, none.
Quantity price_quantity(QuantityLine::Group group);
/// Its amount with the unit its price is of: "214.30 m", "1,204 yd³" without the comma, "12".
std::string amount_words(const QuantityLine& line, const UnitSet& units);
/// "1.5 to 3.0 m deep".
std::string depth_words(const QuantityLine& line, const UnitSet& units);

}  // namespace culvert
