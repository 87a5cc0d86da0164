// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// Names and levels of what is drawn, by the project's defaults.
///
/// A name is made from the project's pattern: {branch} is one or more letters (A, B, ... Z, AA ...), {number} counts
/// along the branch; {number:3} has at least three digits.
namespace culvert {

/// A branch and its number, made into a name by the pattern.
std::string structure_name(const Project& project, const std::string& branch, int number);
/// The parts of a name that follows the pattern; empty branch where it does not.
struct NameParts {
    std::string branch;
    int number = 0;
};
NameParts parts_of_name(const Project& project, const std::string& name);

/// The next free name on the branch of `near`; the first of a new branch where `near` is empty or follows no pattern.
std::string next_structure_name(const Project& project, const std::string& near);
/// A branch letter that no structure uses yet.
std::string next_branch(const Project& project);
/// The next branch after a letter: B after A, AA after Z.
std::string branch_letter(int index);

/// Renumbers structures from the outfall up: the main (longest way up to a head) keeps the first free branch letter,
/// each branch the next, in the order in which they join. Only the chosen structures change (all, if none is given);
/// names of the others are left alone and stay unique. `descend` starts the numbers at the heads instead.
Edit renumber(const Project& project, const std::vector<StructureId>& chosen = {});

/// Lays a pipe between two structures by the project's defaults: size, material and n from the catalogue, inverts from
/// rims, cover to the outside of the barrel and slope; its start never above the inverts that come in, less the drop of
/// the structure. The row is complete but not inserted. Its inverts have origin Default: they follow the structures.
Pipe laid_pipe(const Project& project, StructureId from, StructureId to, std::vector<Point> bends = {});

/// Lays anew the inverts that follow: after rims or places of these structures have changed, every end of origin
/// Default at a pipe of theirs is laid again. Ends of any other origin are pinned and stay.
void follow(Editing& editing, const std::vector<StructureId>& moved);

/// Levels and places are kept to the millimetre.
double to_mm(double metres);
inline Point to_mm(Point p) { return {to_mm(p.x), to_mm(p.y)}; }
/// Fall across a structure that a new pipe is laid with: its type's, else the project's; none at an inline joint.
double drop_across(const Project& project, StructureId structure);
/// The drawn line of a pipe, centre to centre, from its start; empty where it lacks an end.
std::vector<Point> pipe_line(const Project& project, const Pipe& pipe);

/// Lowest invert at a structure; NaN without pipes.
double lowest_invert(const Project& project, StructureId structure);
/// What a structure is, in words: "inlet", "inline joint".
std::string_view structure_word(StructureKind kind);
/// Rim less the bottom: lowest invert less sump.
double structure_depth(const Project& project, const Structure& structure);

/// A new structure of the project's defaults at a place, with type, street and rim from the ground where given.
struct GroundLevel {
    double level = not_given;  ///< NaN: no surface there
};
Structure new_structure(const Project& project, StructureKind kind, Point at, GroundLevel ground,
                        const std::string& near);

}  // namespace culvert
