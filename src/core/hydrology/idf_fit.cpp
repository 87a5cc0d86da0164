// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/idf_fit.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

struct Line {
    double a, c, misfit;  ///< misfit: sum of squares of the logarithms
};
Line line_for(std::span<const double> t, std::span<const double> i, double b) {
    const auto n = static_cast<double>(t.size());
    double sx = 0, sy = 0;
    for (std::size_t k = 0; k < t.size(); ++k) {
        sx += std::log(t[k] + b);
        sy += std::log(i[k]);
    }
    const double mx = sx / n, my = sy / n;
    double sxx = 0, sxy = 0;
    for (std::size_t k = 0; k < t.size(); ++k) {
        const double x = std::log(t[k] + b) - mx;
        sxx += x * x;
        sxy += x * (std::log(i[k]) - my);
    }
    const double c = -sxy / sxx, ln_a = my + c * mx;
    double misfit = 0;
    for (std::size_t k = 0; k < t.size(); ++k) {
        const double off = std::log(i[k]) - (ln_a - c * std::log(t[k] + b));
        misfit += off * off;
    }
    return {std::exp(ln_a), c, misfit};
}

}  // namespace

double IdfFit::intensity(double duration) const { return a / std::pow(duration + b, c); }

IdfFit fit_idf(std::span<const double> t, std::span<const double> i) {
    IdfFit fit;
    if (t.size() < 3 || t.size() != i.size()) return fit;
    for (std::size_t k = 0; k < t.size(); ++k)
        if (!(t[k] > 0) || !(i[k] > 0) || (k > 0 && !(t[k] > t[k - 1]))) return fit;
    // The grid is even in the square root: b is mostly of the order of the shortest durations.
    constexpr int steps = 60;
    const auto place = [&](int k) { return t.back() * std::pow(static_cast<double>(k) / steps, 3); };
    int best = 0;
    double least = 1e300;
    for (int k = 0; k <= steps; ++k)
        if (const double m = line_for(t, i, place(k)).misfit; m < least) {
            least = m;
            best = k;
        }
    double low = place(std::max(best - 1, 0)), high = place(std::min(best + 1, steps));
    const double golden = (std::sqrt(5.0) - 1) / 2;
    for (int k = 0; k < 120 && high - low > 1e-12 * t.back(); ++k) {
        const double p = high - golden * (high - low), q = low + golden * (high - low);
        if (line_for(t, i, p).misfit <= line_for(t, i, q).misfit) high = q;
        else low = p;
    }
    fit.b = (low + high) / 2;
    if (line_for(t, i, 0).misfit <= line_for(t, i, fit.b).misfit) fit.b = 0;
    const Line line = line_for(t, i, fit.b);
    fit.a = line.a;
    fit.c = line.c;
    double squares = 0;
    for (std::size_t k = 0; k < t.size(); ++k) {
        const double r = fit.intensity(t[k]) / i[k] - 1;
        fit.residuals.push_back(r);
        squares += r * r;
        if (std::abs(r) > std::abs(fit.worst)) fit.worst = r;
    }
    fit.root_mean_square = std::sqrt(squares / static_cast<double>(t.size()));
    fit.ok = std::isfinite(fit.a) && std::isfinite(fit.c);
    return fit;
}

}  // namespace culvert
