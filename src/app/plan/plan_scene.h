// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPointF>
#include <QRectF>

#include "core/geometry/box_index.h"
#include "core/model/change_set.h"
#include "core/model/project.h"
#include "core/review/review.h"

/// Geometry of a project as the plan needs it: flat lists in project metres with a spatial index, rebuilt only when the
/// tables it comes from have changed.
namespace culvert::app {

struct PlanPipe {
    std::uint64_t id;
    std::vector<QPointF> line;
    double width;
    bool idle;
};
struct PlanStructure {
    std::uint64_t id;
    QPointF at;
    StructureKind kind;
    std::string name;
    double rim;
    bool idle;  ///< abandoned
};
struct PlanArea {
    std::uint64_t id;
    std::vector<QPointF> outline;
    QPointF centre, target;
    bool drains;
    std::string name;
    double area;
    std::vector<QPointF> flow_path;
    QRectF box;                                        ///< of the outline and the way to its structure
    double coefficient = not_given, time = not_given;  ///< of its land covers together
};
/// A land cover that was drawn, or cut from a layer.
struct PlanCover {
    std::uint64_t id, catchment;
    std::vector<QPointF> outline;
    QRectF box;
    double coefficient;
};
struct PlanPath {
    std::uint64_t id;
    std::vector<QPointF> line;
    bool leaves;    ///< off the site
    bool proposed;  ///< by the program, not yet corrected by a person
};
struct PlanStreet {
    std::uint64_t id;
    std::string name;
    std::vector<QPointF> line, left_curb, right_curb, left_edge, right_edge;
};

/// Another line under ground.
struct PlanLine {
    std::uint64_t id;
    std::string name;
    LineKind kind;
    std::vector<QPointF> line;
    QRectF box;
};

class PlanScene {
  public:
    /// Brings the scene up to date; cheap when nothing that it shows has changed.
    /// @param what  what was changed since the last time; unknown: everything is looked at
    void update(const Project& project, const ChangeSet& what = ChangeSet::everything());
    [[nodiscard]] const std::vector<PlanPipe>& pipes() const { return pipes_; }
    [[nodiscard]] const std::vector<PlanStructure>& structures() const { return structures_; }
    [[nodiscard]] const std::vector<PlanArea>& areas() const { return areas_; }
    [[nodiscard]] const std::vector<PlanCover>& covers() const { return covers_; }
    /// The drawn land cover at a place, of those of a catchment; 0: none.
    [[nodiscard]] std::uint64_t cover_at(QPointF at, std::uint64_t catchment) const;
    [[nodiscard]] const std::vector<PlanPath>& paths() const { return paths_; }
    [[nodiscard]] const std::vector<PlanStreet>& streets() const { return streets_; }
    [[nodiscard]] const std::vector<PlanLine>& lines() const { return lines_; }
    [[nodiscard]] unsigned version() const { return version_; }  ///< changes whenever the lists do
    [[nodiscard]] QRectF bounds() const { return bounds_; }

    [[nodiscard]] std::vector<std::size_t> pipes_in(const QRectF& rect) const;
    [[nodiscard]] std::vector<std::size_t> structures_in(const QRectF& rect) const;
    /// The element within `reach` metres: structures before pipes, buried lines, street paths,
    /// streets, catchments.
    [[nodiscard]] ElementRef element_at(QPointF at, double reach) const;
    [[nodiscard]] std::uint64_t structure_at(QPointF at, double reach) const;
    /// The nearest pipe within `reach`, with the place on it.
    struct OnLine {
        std::uint64_t id = 0;
        QPointF at;
        double station = 0;
    };
    [[nodiscard]] OnLine pipe_near(QPointF at, double reach) const;
    [[nodiscard]] OnLine street_near(QPointF at, double reach) const;

  private:
    bool update_in_place(const Project& project);
    /// Values of single rows; false where more than values changed.
    bool update_rows(const Project& project, const ChangeSet& what);
    void take_values(PlanStructure& shown, const Structure& row);
    void take_values(PlanPipe& shown, const Pipe& row);

    Table<Structure> seen_structures_;
    Table<Pipe> seen_pipes_;
    Table<Catchment> seen_catchments_;
    Table<LandCover> seen_covers_;
    Table<StreetPath> seen_paths_;
    Table<Street> seen_streets_;
    Table<BuriedLine> seen_lines_;
    bool built_ = false;
    unsigned version_ = 0;
    std::vector<PlanPipe> pipes_;
    std::vector<PlanStructure> structures_;
    std::vector<PlanArea> areas_;
    std::vector<PlanCover> covers_;
    std::vector<PlanPath> paths_;
    std::vector<PlanStreet> streets_;
    std::vector<PlanLine> lines_;
    QRectF bounds_;
    BoxIndex pipe_index_, structure_index_;
};

}  // namespace culvert::app
