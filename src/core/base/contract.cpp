// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"

#include <cstdlib>
#include <iostream>

namespace culvert {

void contract_broken(const char* what, double value, const char* file, int line) {
    std::cerr << file << ":" << line << ": contract broken: " << what << " (" << value << ")" << std::endl;
    std::abort();
}

}  // namespace culvert
