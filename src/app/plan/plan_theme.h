// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <array>
#include <vector>

#include "core/analysis/result_fields.h"

/// What the plan colours, fills and labels: its theme. Each stage has one, and the user's choices in it are kept.
namespace culvert::app {

enum class AreaFill { Quiet, Outline, Coefficient, Time };
enum class PipeLabels { None, SizeAndSlope, Value };  ///< Value: what the colours mean
enum class StructureLabels { None, Name, NameAndRim, NameAndLevel };

struct PlanTheme {
    QString colour = "verdict";  ///< key of a colouring
    AreaFill areas = AreaFill::Quiet;
    PipeLabels pipe_labels = PipeLabels::SizeAndSlope;
    StructureLabels structure_labels = StructureLabels::NameAndRim;
    bool quiet_pipes = false, quiet_structures = false;  ///< thin lines, dots, in grey ink: another layer is worked on
    bool streets = false;                                ///< strong: they are worked on
    friend bool operator==(const PlanTheme&, const PlanTheme&) = default;
};

/// One way to colour: by worst verdict, service level, or a result that has classes; or to fill catchments.
struct Colouring {
    QString key, label, help;
    const ResultField* field = nullptr;  ///< none for verdict, service level and catchments
    AreaFill areas = AreaFill::Quiet;    ///< of those that fill catchments
    /// Within a sentence: "flow ratio", "HGL to crown".
    [[nodiscard]] QString in_words() const {
        return label.size() > 1 && label[1].isLower() ? label.left(1).toLower() + label.mid(1) : label;
    }
};
/// All of them: verdict first, then what the result catalogue has classes for, service level, catchments.
std::vector<Colouring> colourings();
/// By its key; the verdict's where there is none.
Colouring colouring(const QString& key);

/// Whether the fill has classes: it stands for a number.
constexpr bool graded(AreaFill fill) { return fill == AreaFill::Coefficient || fill == AreaFill::Time; }
/// Bounds between the classes of a fill of catchments, SI.
ResultClasses area_classes(AreaFill fill);
Quantity area_quantity(AreaFill fill);

}  // namespace culvert::app
