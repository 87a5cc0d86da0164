// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "exchange/project_file.h"

namespace culvert {

/// Writes any file as a project is saved: atomic, through links, the old file untouched on any failure.
SaveOutcome save_text(const std::string& bytes, const std::string& path, Disk* disk = nullptr);

}  // namespace culvert
