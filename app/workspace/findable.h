#pragma once

#include <QString>
#include <functional>

namespace rendak::app {

/// Something that can be found by typing, and what is done when it is chosen.
struct Findable {
    QString kind;  ///< "Lap", "Corner" …
    QString text;
    QString key = {};  ///< of actions that have one
    std::function<void()> act;
};

}  // namespace rendak::app
