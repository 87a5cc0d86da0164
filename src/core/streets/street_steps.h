// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/base/working.h"
#include "core/base/working_units.h"
#include "core/streets/inlet.h"

namespace culvert {

/// The steps by which gutters and inlets are followed by hand, in the units of the edition whose constants they take:
/// for an inlet of a project and for a calculation without one alike.
class StreetSteps : WorkingUnits {
  public:
    /// @param steps  where they are added; null: nowhere
    StreetSteps(Edition edition, Working* steps) : WorkingUnits(edition == Edition::Us), steps_(steps) {}
    /// Depth and spread of a flow along a curb, part by part. Of a composite section; others have their depth alone.
    void gutter(const Gutter& gutter, const GutterFlow& found, double flow) const;
    /// The share that an inlet on a grade takes.
    void capture(const InletForm& inlet, const Gutter& gutter, const Capture& found, double flow) const;
    /// The depth at which an inlet in a sag takes what it takes.
    void sag(const InletForm& inlet, const GutterSection& section, double depth, const StreetConstants& k) const;

  private:
    void add(Step s) const {
        if (steps_) steps_->push_back(std::move(s));
    }
    void grate(const Grate& grate, double cross_slope, const Capture& c) const;
    void opening(double length, const Gutter& gutter, const Capture& c, double flow) const;
    Working* steps_;
};

}  // namespace culvert
