#pragma once

#include <QString>
#include <QStringList>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>

class QSettings;

namespace rendak::app {

/// What a person prefers, kept with the person and not with the library, which others may share: theme, units, the desk
/// last used, and what was looked at in each library. Written at once: a crash loses nothing.
class Preferences {
  public:
    /// In the place where the desktop keeps settings; a path in RENDAK_SETTINGS is used instead.
    static Preferences& of_person();
    ~Preferences();

    [[nodiscard]] bool garage() const;
    void set_garage(bool on);
    [[nodiscard]] bool imperial() const;
    void set_imperial(bool on);
    [[nodiscard]] QString desk() const;
    void set_desk(const QString& id);
    /// How a desk is arranged, as it told it.
    [[nodiscard]] QString desk_state(const QString& desk) const;
    void set_desk_state(const QString& desk, const QString& state);
    /// Channels that are at hand first in the picker, by their ids.
    [[nodiscard]] QStringList favourites() const;
    void set_favourites(const QStringList& ids);
    /// Keys that a person gave an act, as text; nullopt: those it came with.
    [[nodiscard]] std::optional<QString> keys(const QString& act) const;
    void set_keys(const QString& act, const std::optional<QString>& keys);
    /// How the map is painted by a quantity: bands and limits, as the desk writes them.
    [[nodiscard]] QString map_paint(const QString& quantity) const;
    void set_map_paint(const QString& quantity, const QString& how);
    /// The windows that were open, a line each, as the shell writes them.
    [[nodiscard]] QStringList windows() const;
    void set_windows(const QStringList& windows);
    /// Fixed scales, colours of channels and units (app/text/shown.h): read into the program, and kept as they are
    /// there now.
    void read_shown() const;
    void keep_shown();
    /// Folders of libraries, the one used last first; ten at most.
    [[nodiscard]] QStringList recent_libraries() const;
    void use_library(const QString& folder);
    void forget_library(const QString& folder);
    /// Picked laps, range and cursor of a library, as text; empty when it was never looked at.
    [[nodiscard]] std::string focus(const std::filesystem::path& library) const;
    void set_focus(const std::filesystem::path& library, const std::string& focus);

  private:
    Preferences();
    std::unique_ptr<QSettings> settings_;
};

}  // namespace rendak::app
