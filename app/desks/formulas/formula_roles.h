#pragma once

#include <QString>
#include <string>

namespace rendak::app {

/// Where the list of formulas keeps set and name of a row.
inline constexpr int formula_set_role = Qt::UserRole, formula_name_role = Qt::UserRole + 1;

inline QString text_of(const std::string& text) {
    return QString::fromStdString(text);
}

}  // namespace rendak::app
