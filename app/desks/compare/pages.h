#pragma once

#include <QStringList>

#include "app/plot/trace_canvas.h"
#include "core/library/library.h"

namespace rendak::app {

/// Named sets of lanes for a theme: ready-made ones, changed to taste, and one's own. Kept in the library.
class Pages {
  public:
    explicit Pages(Library& library) : library_(library) {}
    static QString first() { return QStringLiteral("Overview"); }

    [[nodiscard]] QStringList names() const;
    [[nodiscard]] bool is_ready_made(const QString& name) const;
    /// Empty for a page nobody has defined.
    [[nodiscard]] std::vector<Lane> lanes(const QString& name) const;
    /// True when somebody has changed a page or made it.
    [[nodiscard]] bool is_changed(const QString& name) const;
    [[nodiscard]] Result<void> save(const QString& name, const std::vector<Lane>& lanes);
    /// A ready-made page comes back as it was; one's own goes.
    [[nodiscard]] Result<void> forget(const QString& name);

  private:
    [[nodiscard]] std::string text_of(const std::string& key) const;
    Library& library_;
};

}  // namespace rendak::app
