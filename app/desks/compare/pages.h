#pragma once

#include <QStringList>
#include <filesystem>

#include "app/plot/lane.h"
#include "core/library/library.h"

namespace rendak::app {

/// Lanes as text that lanes_from() reads; JSON. Of older pages too, which were a line a lane.
[[nodiscard]] std::string text_of_lanes(const std::vector<Lane>& lanes);
[[nodiscard]] std::vector<Lane> lanes_from(const std::string& text);

/// A page as a file that others read: its name and its lanes.
struct PageFile {
    QString name;
    std::vector<Lane> lanes;
};
[[nodiscard]] Result<void> write_page(const PageFile& page, const std::filesystem::path& file);
[[nodiscard]] Result<PageFile> read_page(const std::filesystem::path& file);

/// Named sets of lanes for a theme: ready-made ones, changed to taste, and one's own. Kept in the library, and only
/// when that is asked for.
class Pages {
  public:
    explicit Pages(Library& library) : library_(library) {}
    static QString first() { return QStringLiteral("Overview"); }

    [[nodiscard]] QStringList names() const;
    [[nodiscard]] static QStringList ready_made_names();
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
