// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/losses.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

constexpr double inch = 0.0254;

/// What a step of rain leaves, one loss at a time; each keeps what it needs from step to step.
struct Step {
    double runoff = 0, held = 0;
};

class CurveNumberTaker {
  public:
    explicit CurveNumberTaker(const CurveNumberLoss& l) : loss_(l), initial_(l.ratio * retention(l)) {}
    Step operator()(double rain, double) {
        const double before = fallen_;
        fallen_ += rain;
        const double runs = runoff_depth(loss_, fallen_);
        const Step s{runs - run_, std::min(fallen_, initial_) - std::min(before, initial_)};
        run_ = runs;
        return s;
    }

  private:
    CurveNumberLoss loss_;
    double initial_, fallen_ = 0, run_ = 0;
};

/// An initial depth first; what is left of the step goes to the second part, with the share of time left.
class InitialTaker {
  public:
    explicit InitialTaker(double initial) : left_(initial) {}
    /// @return  rain that is left of the step, m
    double take(double rain, double& time_left) {
        const double held = std::min(left_, rain);
        left_ -= held;
        time_left = rain > 0 ? 1 - held / rain : 1;
        return rain - held;
    }

  private:
    double left_;
};

class HortonTaker {
  public:
    explicit HortonTaker(const HortonLoss& l) : l_(l) {}
    Step operator()(double rain, double step) {
        const double could = infiltrated(time_ + step) - infiltrated(time_);
        if (rain >= could) {
            time_ += step;
            return {rain - could, 0};
        }
        // Less than the ground could take: its time goes on only by what it took.
        const double wanted = infiltrated(time_) + rain;
        double low = time_, high = time_ + step;
        for (int i = 0; i < 80; ++i) {
            const double t = (low + high) / 2;
            (infiltrated(t) < wanted ? low : high) = t;
        }
        time_ = (low + high) / 2;
        return {};
    }

  private:
    [[nodiscard]] double infiltrated(double t) const {
        return l_.last * t + (l_.first - l_.last) / l_.decay * -std::expm1(-l_.decay * t);
    }
    HortonLoss l_;
    double time_ = 0;
};

class GreenAmptTaker {
  public:
    explicit GreenAmptTaker(const GreenAmptLoss& l) : l_(l) {}
    Step operator()(double rain, double step) {
        const double rate = rain / step, before = taken_;
        if (rate > l_.conductivity && rate > capacity(taken_)) {
            taken_ = ponded(taken_, step);
        } else if (const double all = taken_ + rain; rate <= l_.conductivity || rate <= capacity(all)) {
            taken_ = all;
        } else {  // it ponds within the step
            const double at = l_.conductivity * l_.head / (rate - l_.conductivity);
            taken_ = ponded(at, step - (at - taken_) / rate);
        }
        taken_ = std::min(taken_, before + rain);
        return {rain - (taken_ - before), 0};
    }

  private:
    [[nodiscard]] double capacity(double f) const { return f > 0 ? l_.conductivity * (1 + l_.head / f) : HUGE_VAL; }
    /// F2 - F1 - N ln((F2 + N) / (F1 + N)) = K t, by Newton from above.
    [[nodiscard]] double ponded(double from, double time) const {
        const double n = l_.head, kt = l_.conductivity * time;
        if (n <= 0) return from + kt;
        double f = from + kt + std::sqrt(2 * kt * (n + from)) + 1e-12;
        for (int i = 0; i < 60; ++i) {
            const double g = f - from - n * std::log((f + n) / (from + n)) - kt, slope = f / (f + n);
            const double next = f - g / std::max(slope, 1e-12);
            if (std::abs(next - f) < 1e-15) break;
            f = std::max(next, from);
        }
        return f;
    }
    GreenAmptLoss l_;
    double taken_ = 0;
};

class ConstantTaker : InitialTaker {
  public:
    explicit ConstantTaker(const ConstantLoss& l) : InitialTaker(l.initial), rate_(l.rate) {}
    Step operator()(double rain, double step) {
        double time = 1;
        const double left = take(rain, time);
        return {left - std::min(left, rate_ * step * time), rain - left};
    }

  private:
    double rate_;
};
class ProportionalTaker : InitialTaker {
  public:
    explicit ProportionalTaker(const ProportionalLoss& l) : InitialTaker(l.initial), share_(l.share) {}
    Step operator()(double rain, double) {
        double time = 1;
        const double left = take(rain, time);
        return {left * (1 - share_), rain - left};
    }

  private:
    double share_;
};
class HeldTaker : InitialTaker {
  public:
    explicit HeldTaker(const HeldLoss& l) : InitialTaker(l.depth) {}
    Step operator()(double rain, double) {
        double time = 1;
        const double left = take(rain, time);
        return {left, rain - left};
    }
};

CurveNumberTaker taker(const CurveNumberLoss& l) { return CurveNumberTaker(l); }
ConstantTaker taker(const ConstantLoss& l) { return ConstantTaker(l); }
ProportionalTaker taker(const ProportionalLoss& l) { return ProportionalTaker(l); }
HortonTaker taker(const HortonLoss& l) { return HortonTaker(l); }
GreenAmptTaker taker(const GreenAmptLoss& l) { return GreenAmptTaker(l); }
HeldTaker taker(const HeldLoss& l) { return HeldTaker(l); }

}  // namespace

double retention(const CurveNumberLoss& loss) {
    const double s = inch * (1000 / loss.curve_number - 10);
    return loss.ratio == 0.05 ? inch * 1.33 * std::pow(s / inch, 1.15) : s;
}

double runoff_depth(const CurveNumberLoss& loss, double rain) {
    const double s = retention(loss), left = rain - loss.ratio * s;
    return left > 0 ? left * left / (left + s) : 0;
}

LossTotals take_losses(const LossModel& loss, std::span<const double> rain, double step, std::span<double> runoff) {
    return std::visit(
        [&](const auto& model) {
            LossTotals t;
            auto take = taker(model);
            for (std::size_t i = 0; i < rain.size(); ++i) {
                const double fell = rain[i];
                Step s = fell > 0 ? take(fell, step) : Step{};
                s.runoff = std::clamp(s.runoff, 0.0, fell);  // rounding alone
                runoff[i] = s.runoff;
                t.rain += fell;
                t.runoff += s.runoff;
                t.held += s.held;
                t.infiltrated += fell - s.runoff - s.held;
            }
            return t;
        },
        loss);
}

}  // namespace culvert
