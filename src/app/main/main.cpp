// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/start.h"

int main(int argc, char** argv) { return culvert::app::start(argc, argv); }
