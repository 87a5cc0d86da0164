// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <array>
#include <cmath>

/// A panel of an integral: its value, how far that is to be believed, and the polynomial that runs through the values
/// it was made from.
///
///     I(a, b) = h sum w_j f(m + h t_j)          m = (a + b) / 2, h = (b - a) / 2
///
/// with Kronrod's seven points t_j, among which are Gauss's three; the difference of both sums bounds the error. The
/// polynomial of degree 6 through the seven values has the same integral, so that
///
///     I(a, u) = h integral of p from -1 to (u - m) / h
///
/// is known at every u of the panel without another value of f, and can be inverted: where does the integral reach a
/// target? How good it is inside is told by how its coefficients fall: the last of a smooth function is small.
///
/// @source  Kronrod's points for three Gauss points: Piessens et al., QUADPACK (1983)
namespace culvert {

class Panel {
  public:
    Panel() = default;  ///< not filled: room for many costs nothing
    template <class F>
    Panel(const F& f, double a, double b) : middle_((a + b) / 2), half_((b - a) / 2) {
        const double f0 = f(middle_);
        std::array<double, 3> even, odd;  // halves of sums and differences of the values at both sides
        for (std::size_t j = 0; j < 3; ++j) {
            const double right = f(middle_ + half_ * at[j]), left = f(middle_ - half_ * at[j]);
            even[j] = (right + left) / 2;
            odd[j] = (right - left) * half_of_one_over[j];
        }
        total_ = half_ * (2 * (weight[0] * even[0] + weight[1] * even[1] + weight[2] * even[2]) + weight[3] * f0);
        error_ = std::abs(total_ - half_ * (10.0 / 9 * even[1] + 8.0 / 9 * f0));
        // Newton's divided differences in t^2: the even part through 0 and three points, the odd one through three.
        constexpr double per2 = 1 / z[2], per21 = 1 / (z[1] - z[2]), per10 = 1 / (z[0] - z[1]), per1 = 1 / z[1],
                         per20 = 1 / (z[0] - z[2]), per0 = 1 / z[0];
        const double a1 = (even[2] - f0) * per2, a2 = (even[1] - even[2]) * per21, a3 = (even[0] - even[1]) * per10,
                     b2 = (a2 - a1) * per1, b3 = (a3 - a2) * per20, c3 = (b3 - b2) * per0;
        p_[0] = f0;
        p_[2] = a1 - b2 * z[2] + c3 * z[2] * z[1];
        p_[4] = b2 - c3 * (z[2] + z[1]);
        p_[6] = c3;
        const double d1 = (odd[1] - odd[2]) * per21, d2 = (odd[0] - odd[1]) * per10, e2 = (d2 - d1) * per20;
        p_[1] = odd[2] - d1 * z[2] + e2 * z[2] * z[1];
        p_[3] = d1 - e2 * (z[2] + z[1]);
        p_[5] = e2;
    }

    [[nodiscard]] double from() const { return middle_ - half_; }
    [[nodiscard]] double to() const { return middle_ + half_; }
    [[nodiscard]] double total() const { return total_; }
    /// Difference of the two sums: far above the error of the total.
    [[nodiscard]] double error() const { return error_; }
    /// What the integral may be wrong by inside the panel: the last two parts of the polynomial, as Chebyshev's.
    [[nodiscard]] double inside() const { return std::abs(half_) * (std::abs(p_[6]) / 32 + std::abs(p_[5]) / 64); }

    /// Where the integral from the panel's beginning reaches a target between 0 and the total.
    [[nodiscard]] double where(double target) const {
        if (!(target > 0)) return from();
        if (target >= total_) return to();
        const double wanted = target / half_ + below(-1);
        double low = -1, high = 1, t = 2 * target / total_ - 1;
        const double sign = half_ < 0 ? -1 : 1;
        for (int i = 0; i < 40; ++i) {
            const double off = below(t) - wanted;
            (off * sign > 0 ? high : low) = t;
            const double next = t - off / value(t);
            if (std::abs(next - t) < 1e-6) {  // the next step would be its square
                t = std::clamp(next, low, high);
                break;
            }
            t = next > low && next < high ? next : (low + high) / 2;
        }
        return middle_ + half_ * t;
    }

  private:
    static constexpr std::array<double, 4> at{0.960491268708020283423507092629080, 0.774596669241483377035853079956480,
                                              0.434243749346802558002071502844628, 0};
    static constexpr std::array<double, 4> weight{
        0.104656226026467265193823857192073, 0.268488089868333440728569280666710, 0.401397414775962222905051818618432,
        0.450916538658474142345110087045571};
    static constexpr std::array<double, 3> half_of_one_over{0.5 / at[0], 0.5 / at[1], 0.5 / at[2]};
    static constexpr std::array<double, 3> z{at[0] * at[0], at[1] * at[1], at[2] * at[2]};

    [[nodiscard]] double value(double t) const {
        return p_[0] + t * (p_[1] + t * (p_[2] + t * (p_[3] + t * (p_[4] + t * (p_[5] + t * p_[6])))));
    }
    [[nodiscard]] double below(double t) const {  ///< antiderivative, 0 in the middle
        constexpr double third = 1.0 / 3, fifth = 1.0 / 5, sixth = 1.0 / 6, seventh = 1.0 / 7;
        return t *
               (p_[0] + t * (p_[1] / 2 +
                             t * (p_[2] * third +
                                  t * (p_[3] / 4 + t * (p_[4] * fifth + t * (p_[5] * sixth + t * p_[6] * seventh))))));
    }

    double middle_, half_, total_, error_;
    std::array<double, 7> p_;  ///< of t
};

}  // namespace culvert
