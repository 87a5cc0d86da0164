// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace culvert::app {

/// Parts of the card below its heading and drawing, in their usual order. A stage brings one of them to the front.
enum class CardPart { Verdicts, Cause, Service, Levels, Results, Inputs, Drains, Street, Event, Storage };

}  // namespace culvert::app
