// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/findings_printer.h"

#include <iostream>
#include <nlohmann/json.hpp>

namespace culvert::cli {
namespace {
constexpr std::size_t most_held = 4000;
}

void FindingsPrinter::put(Finding finding) {
    if (!json_) {
        held_.push_back(std::move(finding));
        if (held_.size() >= most_held) print_held();
        return;
    }
    std::string text = findings_json(project_, {finding})[0].dump(2);
    for (auto at = text.find('\n'); at != std::string::npos; at = text.find('\n', at + 3)) text.insert(at + 1, "  ");
    std::cout << (any_ ? ",\n  " : "[\n  ") << text;
    any_ = true;
}

void FindingsPrinter::print_held() {
    if (held_.empty()) return;
    std::string text = render(findings_table(project_, held_));
    if (any_) text.erase(0, text.find('\n') + 1);  // the heads stand above the first rows
    std::cout << text;
    any_ = true;
    held_.clear();
}

void FindingsPrinter::finish() {
    if (json_) {
        std::cout << (any_ ? "\n]\n" : "[]\n");
        return;
    }
    print_held();
    if (any_) std::cout << "\n";
}

}  // namespace culvert::cli
