#pragma once

#include <QPointer>
#include <QWidget>
#include <algorithm>
#include <vector>

namespace rendak::app {

/// The views that show something: what nobody looks at is not worked out.
class SeenBy {
  public:
    void add(QWidget* view) {
        if (std::find(views_.begin(), views_.end(), view) == views_.end()) views_.emplace_back(view);
    }
    [[nodiscard]] bool anybody() const {
        return std::any_of(views_.begin(), views_.end(),
                           [](const QPointer<QWidget>& it) { return it != nullptr && it->isVisible(); });
    }

  private:
    std::vector<QPointer<QWidget>> views_;
};

}  // namespace rendak::app
