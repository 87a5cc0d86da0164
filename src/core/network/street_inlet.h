// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <optional>

#include "core/model/project.h"
#include "core/streets/inlet.h"

/// An inlet as the solution needs it, and the way over the surface for what it does not take: a street path as a link.
///
/// Street paths lead from inlet to inlet over streets, also between components of pipes: their order is apart from that
/// of the pipes. Inlets stand so that each comes after all whose bypass reaches it.
namespace culvert {

/// Where the water goes that an inlet does not take.
enum class PathEnd : std::uint8_t {
    Nowhere,    ///< no street path, or one of a ring: it stays in the pipe below the inlet, and a finding says so
    Structure,  ///< on to the next one
    OffSite     ///< the path leaves the site
};

/// What gave an inlet its grade along the street.
enum class GradeFrom : std::uint8_t { Entered, Profile, Rims, Unknown };

struct StreetInlet {
    int node = -1;  ///< of its structure
    InletForm form;
    Gutter gutter;       ///< section, grade and roughness of the street before it
    bool sag = false;    ///< water stands over it from both sides
    double crest = 0;    ///< depth at the curb at which a sag spills on along its path, m
    double curb = 0.15;  ///< height of the curb, m
    GradeFrom grade_from = GradeFrom::Unknown;
    PathEnd end = PathEnd::Nowhere;
    int to = -1;             ///< node that its path leads to
    double path_length = 0;  ///< m
    friend bool operator==(const StreetInlet&, const StreetInlet&) = default;
};
/// Whether what an inlet lets pass runs on to another one.
inline bool runs_on(const StreetInlet& in) { return in.end == PathEnd::Structure && in.to >= 0; }

/// The inlet of a structure as its type, its street and its own fields make it; none where the structure is no inlet,
/// or its type does not say what takes the water, or the street's grade or section is not known (`fault` says why).
/// @param path  its street path, whose rims tell the grade where nothing else does; null: none
std::optional<StreetInlet> street_inlet(const Project& project, const Structure& structure, const StreetPath* path,
                                        std::string* fault = nullptr);
/// What a type takes water with; none where its kind is not given or a size is missing.
std::optional<InletForm> inlet_form(const StructureType& type, double opening_length = not_given);

}  // namespace culvert
