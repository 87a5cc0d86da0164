// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

/// Quantities, their units, and how a person types and reads them.
///
/// The core computes in SI (m, m2, m3/s, m/s, m/m, s). A quantity is what a number measures; each has units to show it
/// in, and a project shows one unit and a number of digits per quantity. Factors are exact by definition
/// (international foot 0.3048 m, acre 43 560 ft2).
namespace culvert {

enum class Quantity {
    None,            ///< a plain number
    Length,          ///< m: lengths, covers, drops, freeboards
    Level,           ///< m above datum
    Size,            ///< m: diameter, width, height of a section
    Area,            ///< m2: catchments
    Flow,            ///< m3/s
    Velocity,        ///< m/s
    Slope,           ///< m/m, positive falls downstream
    Intensity,       ///< m/s of rain
    Duration,        ///< s
    Years,           ///< return period, years
    Ratio,           ///< share or coefficient
    Roughness,       ///< Manning n
    DepthVelocity,   ///< m2/s: depth times velocity of water that people stand in
    Stress,          ///< Pa
    PricePerVolume,  ///< of a cubic metre, in the currency of the project
    PricePerLength,  ///< of a metre
    PriceBySize,     ///< of a metre of pipe a metre wide
    Volume,          ///< m3 of water
    WaterArea,       ///< m2 of a water surface
    FlowPerArea,     ///< m3/s of a square metre of ground
    RainDepth,       ///< m of water over ground
    Count
};
constexpr std::size_t quantity_count = static_cast<std::size_t>(Quantity::Count);

enum class UnitSystem { Si, Us };

struct Unit {
    std::string_view symbol;
    double factor;  ///< SI value of one unit
    int digits;     ///< decimals shown by default
};

/// All units a quantity can be typed or shown in; the first is the SI project's, the second the US project's choice.
const std::vector<Unit>& units_of(Quantity quantity);
std::string_view name_of(Quantity quantity);

/// The unit and digits a project shows for each quantity.
class UnitSet {
  public:
    explicit UnitSet(UnitSystem system = UnitSystem::Si);
    /// Applies choices such as "flow m³/s 3; velocity m/s 2". Text that is not understood is returned, not applied.
    std::string apply(std::string_view choices);
    [[nodiscard]] const Unit& unit(Quantity quantity) const { return chosen_[static_cast<std::size_t>(quantity)]; }
    [[nodiscard]] double to_si(double shown, Quantity quantity) const { return shown * unit(quantity).factor; }
    [[nodiscard]] double shown(double si, Quantity quantity) const { return si / unit(quantity).factor; }
    /// Number alone, with the quantity's digits; a dash for a value that is not known (NaN).
    [[nodiscard]] std::string number(double si, Quantity quantity) const;
    /// Number and unit.
    [[nodiscard]] std::string text(double si, Quantity quantity) const;
    /// Number and unit with enough digits to be typed back without loss of what matters (no trailing zeros).
    [[nodiscard]] std::string entry(double si, Quantity quantity) const;
    [[nodiscard]] UnitSystem system() const { return system_; }

  private:
    UnitSystem system_;
    std::array<Unit, quantity_count> chosen_;
};

/// Shortest decimal text d such that d * factor, rounded once, is exactly `si`: what files hold.
std::string shortest_decimal(double si, double factor);
/// Inverse of shortest_decimal: parses the decimal in extended precision and rounds once. False if not a finite number.
bool read_decimal(std::string_view text, double factor, double& si);

/// What a person typed, understood.
struct Entry {
    bool ok = false;
    double value = 0;        ///< SI
    std::string understood;  ///< "450 mm"
    std::string error;       ///< what is wrong and how to write it
    std::string question;    ///< set when the value looks like a wrong unit: "0.45 mm is out of scale: 0.45 m?"
    double alternative = 0;  ///< the value the question offers, SI
};

/// Range in which a value raises no question, SI. An empty range (low > high) asks nothing.
struct Scale {
    double low = 1, high = 0;
};

/// Reads a number with an optional unit, a sum of them ("82.40-0.6"), or a slope in any form ("1.5%", "0.015", "1:66").
/// A bare slope below 0.02 is read as a ratio, from 0.1 as the shown unit, and between them both are offered.
Entry read_entry(std::string_view text, Quantity quantity, const UnitSet& units, Scale scale = {});

}  // namespace culvert
