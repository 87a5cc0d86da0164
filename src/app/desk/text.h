// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <string>
#include <string_view>

/// Between the words of the core, UTF-8, and those of the window.
namespace culvert::app {

inline QString text(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }
inline std::string plain(const QString& s) { return s.toStdString(); }

}  // namespace culvert::app
