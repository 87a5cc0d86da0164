// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "core/model/ids.h"
#include "core/network/network.h"

/// What a solve leaves behind: a fixed, small summary per node (a structure and the pipe that leads on from it) and
/// event.
namespace culvert {

/// Rational flow in the node's pipe.
struct FlowResult {
    double effective_area = 0;  ///< sum of C Cf A upstream, m2
    double known_flow = 0;      ///< sum of known flows, m3/s
    double time = 0;            ///< Tc at the pipe's start, s
    double intensity = 0;       ///< i(Tc), uplift included, m/s
    double plain_flow = 0;      ///< CA i + known flow, m3/s
    double flow = 0;            ///< design flow: the plain one, or the largest incoming one where that is held
    double normal = 0;          ///< normal depth of the design flow, m; NaN where there is none
    double velocity = 0;        ///< at normal depth, or of the full section, m/s
    double travel = 0;          ///< time through the pipe, s
};

enum class Control : std::uint8_t {
    Downstream,  ///< the level at its downstream end reaches its upstream end
    Uniform,     ///< runs at normal depth at its upstream end: what stands below is not felt
    Entrance,    ///< critical depth at its entrance (steep)
    Arriving     ///< fast water arrives through an inline joint
};

/// Grade lines of the node's pipe and structure. Heads are above the pipe's invert at that end; above the pipe's height
/// they are pressure heads.
struct LevelResult {
    double level = not_given;   ///< HGL in the structure, m
    double energy = not_given;  ///< EGL at the structure, m
    double head_up = not_given, head_down = not_given;
    double velocity_up = 0, velocity_down = 0;
    double fast_up = not_given;    ///< depth of fast water at the entrance; NaN where none enters
    double slow_down = not_given;  ///< depth at the downstream end of the curve controlled from there
    double critical = 0;           ///< critical depth, m
    double reach = 0;              ///< how far the curve controlled from downstream reaches up from there, m
    double jump = 0;               ///< end of the fast reach, m from the entrance; the length: fast throughout; 0: none
    double full_length = 0;        ///< length running full, m
    Control control = Control::Downstream;
    bool free_end = false;  ///< the downstream level does not reach the pipe's end
    bool steep = false;
    bool held = false;  ///< level held at the rim
};

struct NodeResult {
    FlowResult flow;
    LevelResult level;
};

/// One event solved over one compiled network.
struct EventResult {
    EventId event;
    std::shared_ptr<const Network> network;
    std::vector<NodeResult> nodes;
    std::uint64_t revision = 0;  ///< of the project it was solved for
    std::size_t recomputed = 0;  ///< nodes whose grade line was computed anew, the others were still true
};

}  // namespace culvert
