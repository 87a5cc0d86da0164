// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <span>
#include <string>
#include <variant>
#include <vector>

/// Cross-sections of other shapes than circles and boxes, as tables of their wetted geometry.
///
/// Every outline is a chain of straight pieces. Between two levels of its corners the width of the water is linear in
/// the depth, so that within such a band, with T0, A0, P0 at its foot and h its height,
///
///     T = T0 + (T1 - T0) u      A = A0 + h u (T0 + T) / 2      P = P0 + (P1 - P0) u      u = (y - y0) / h
///
/// hold exactly. Curved outlines have 480 corners; their widths are scaled so that the full area is that of the curve,
/// which leaves less than 1e-4 of any area. Horizontal pieces (floors, ledges, lids) are wetted once the water is above
/// them, a lid when it is full.
///
/// An open shape has no crown: its height is that of its lower bank, its full perimeter has no lid. Water above the
/// bank is computed as if the channel were closed there, and is beyond its limit in every check.
namespace culvert {

/// Across and up, m.
struct OutlinePoint {
    double x = 0, y = 0;
    friend bool operator==(const OutlinePoint&, const OutlinePoint&) = default;
};
struct Ellipse {
    double width;   ///< span, m, > 0
    double height;  ///< rise, m, > 0
    friend bool operator==(const Ellipse&, const Ellipse&) = default;
};
/// A flat floor under half an ellipse.
struct Arch {
    double width, height;
    friend bool operator==(const Arch&, const Arch&) = default;
};
/// The egg of 3 to 2: width 2/3 of the height; top half circle of radius w/2, bottom of w/4, sides of 3 w/2.
struct Egg {
    double height;
    friend bool operator==(const Egg&, const Egg&) = default;
};
/// Open: a bed between sloping sides; rectangular with sides 0, triangular with width 0.
struct OpenTrapezoid {
    double width;   ///< of the bed, m, >= 0
    double sides;   ///< run over rise, >= 0
    double height;  ///< of the banks, m, > 0
    friend bool operator==(const OpenTrapezoid&, const OpenTrapezoid&) = default;
};
/// Open: half a circle with vertical walls above it.
struct HalfRound {
    double width, height;
    friend bool operator==(const HalfRound&, const HalfRound&) = default;
};
/// Points across the section, from the left bank to the right, or closed where the last is the first.
struct CustomOutline {
    std::vector<OutlinePoint> points;  ///< across and up, m
    friend bool operator==(const CustomOutline&, const CustomOutline&) = default;
};
using SectionForm = std::variant<Ellipse, Arch, Egg, OpenTrapezoid, HalfRound, CustomOutline>;

/// What is wrong with points as a custom section: empty where they will do.
std::string outline_fault(std::span<const OutlinePoint> points);

class SectionTable {
  public:
    explicit SectionTable(SectionForm form);
    struct Row {
        double area = 0, perimeter = 0, top = 0, moment = 0;  ///< moment: of the area about the lowest point, m3
    };
    /// At a depth, held to 0 .. height.
    [[nodiscard]] Row at(double depth) const;
    [[nodiscard]] double height() const { return height_; }
    [[nodiscard]] double full_area() const { return full_.area; }
    [[nodiscard]] double full_perimeter() const { return full_.perimeter; }
    [[nodiscard]] double full_moment() const { return full_.moment; }
    /// Depth at which a constant n carries most, and how much more than full.
    [[nodiscard]] double peak_depth() const { return peak_depth_; }
    [[nodiscard]] double peak_ratio() const { return peak_ratio_; }
    [[nodiscard]] bool open() const { return open_; }
    [[nodiscard]] double width() const { return width_; }  ///< largest
    [[nodiscard]] const SectionForm& form() const { return form_; }
    /// Outline for drawing: across and up, the lowest point at 0.
    [[nodiscard]] const std::vector<OutlinePoint>& outline() const { return outline_; }
    /// Levels between which a width is linear.
    [[nodiscard]] std::vector<double> levels() const;
    friend bool operator==(const SectionTable& a, const SectionTable& b) { return a.form_ == b.form_; }

  private:
    struct Band {
        double y, height;              ///< foot, and how high it reaches
        double top0, top1;             ///< width at its foot and at its head
        double area, perimeter, rise;  ///< at its foot; growth of the perimeter up to its head
        double moment;
    };
    void build(double scale);
    void find_peak();
    SectionForm form_;
    std::vector<OutlinePoint> outline_;
    bool open_ = false;
    double height_ = 0, width_ = 0, peak_depth_ = 0, peak_ratio_ = 1;
    std::vector<Band> bands_;
    Row full_;
};

/// A shape by its table; two are equal where their forms are.
struct Shaped {
    std::shared_ptr<const SectionTable> table;
    friend bool operator==(const Shaped& a, const Shaped& b) {
        return a.table == b.table || (a.table && b.table && *a.table == *b.table);
    }
};
/// The table of a form; those of the last forms asked for are kept, so that pipes alike share one.
Shaped shaped(const SectionForm& form);

}  // namespace culvert
