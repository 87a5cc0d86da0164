// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace culvert::app {
/// Runs the application; `--shots FOLDER` paints the README's pictures from the demo data and ends.
int start(int argc, char** argv);
}  // namespace culvert::app
