#include "app/session/preferences.h"

#include <QCryptographicHash>
#include <QSettings>

#include "app/text/shown.h"

namespace rendak::app {
namespace {

QString focus_key(const std::filesystem::path& library) {
    std::error_code ignored;
    const auto place = QByteArray::fromStdString(std::filesystem::weakly_canonical(library, ignored).string());
    return QStringLiteral("focus/") +
           QString::fromLatin1(QCryptographicHash::hash(place, QCryptographicHash::Sha256).toHex().left(16));
}

}  // namespace

Preferences& Preferences::of_person() {
    static Preferences one;
    return one;
}

Preferences::Preferences() {
    const QString own = qEnvironmentVariable("RENDAK_SETTINGS");
    settings_ = own.isEmpty() ? std::make_unique<QSettings>(QSettings::IniFormat, QSettings::UserScope,
                                                            QStringLiteral("rendak"), QStringLiteral("rendak"))
                              : std::make_unique<QSettings>(own, QSettings::IniFormat);
}

Preferences::~Preferences() = default;

bool Preferences::garage() const {
    return settings_->value(QStringLiteral("theme")) == QLatin1String("garage");
}

void Preferences::set_garage(bool on) {
    settings_->setValue(QStringLiteral("theme"), on ? QStringLiteral("garage") : QStringLiteral("light"));
    settings_->sync();
}

bool Preferences::imperial() const {
    return settings_->value(QStringLiteral("units")) == QLatin1String("imperial");
}

void Preferences::set_imperial(bool on) {
    settings_->setValue(QStringLiteral("units"), on ? QStringLiteral("imperial") : QStringLiteral("metric"));
    settings_->sync();
}

QString Preferences::desk() const {
    return settings_->value(QStringLiteral("desk")).toString();
}

void Preferences::set_desk(const QString& id) {
    settings_->setValue(QStringLiteral("desk"), id);
    settings_->sync();
}

QString Preferences::desk_state(const QString& desk) const {
    return settings_->value(QStringLiteral("desks/") + desk).toString();
}

void Preferences::set_desk_state(const QString& desk, const QString& state) {
    settings_->setValue(QStringLiteral("desks/") + desk, state);
    settings_->sync();
}

QStringList Preferences::favourites() const {
    return settings_->value(QStringLiteral("favourite-channels")).toStringList();
}

void Preferences::set_favourites(const QStringList& ids) {
    settings_->setValue(QStringLiteral("favourite-channels"), ids);
    settings_->sync();
}

std::optional<QString> Preferences::keys(const QString& act) const {
    const QVariantMap all = settings_->value(QStringLiteral("keys")).toMap();
    return all.contains(act) ? std::optional(all[act].toString()) : std::nullopt;
}

void Preferences::set_keys(const QString& act, const std::optional<QString>& keys) {
    QVariantMap all = settings_->value(QStringLiteral("keys")).toMap();
    if (keys)
        all[act] = *keys;
    else
        all.remove(act);
    settings_->setValue(QStringLiteral("keys"), all);
    settings_->sync();
}

void Preferences::read_shown() const {
    const QStringList rows = settings_->value(QStringLiteral("fixed-scales")).toStringList();
    for (const QString& row : rows) {
        const QStringList parts = row.split(u'\t');
        if (parts.size() == 3)
            set_fixed_scale(parts[0].toStdString(), Interval{parts[1].toDouble(), parts[2].toDouble()});
    }
    const QVariantMap units = settings_->value(QStringLiteral("own-units")).toMap();
    for (auto it = units.begin(); it != units.end(); ++it) set_own_unit(it.key(), it.value().toString());
    const QVariantMap chosen = settings_->value(QStringLiteral("channel-colours")).toMap();
    for (auto it = chosen.begin(); it != chosen.end(); ++it)
        set_channel_colour(it.key().toStdString(), QColor(it.value().toString()));
}

void Preferences::keep_shown() {
    QVariantMap units;
    for (const auto& [metric, unit] : own_units()) units[metric] = unit;
    if (units != settings_->value(QStringLiteral("own-units")).toMap())
        settings_->setValue(QStringLiteral("own-units"), units);
    QVariantMap chosen;
    for (const auto& [quantity, colour] : channel_colours()) chosen[QString::fromStdString(quantity)] = colour.name();
    if (chosen != settings_->value(QStringLiteral("channel-colours")).toMap())
        settings_->setValue(QStringLiteral("channel-colours"), chosen);
    QStringList rows;
    for (const auto& [quantity, si] : fixed_scales())
        rows << QStringList{QString::fromStdString(quantity), QString::number(si.begin, 'g', 12),
                            QString::number(si.end, 'g', 12)}
                    .join(u'\t');
    if (rows == settings_->value(QStringLiteral("fixed-scales")).toStringList()) return;
    settings_->setValue(QStringLiteral("fixed-scales"), rows);
    settings_->sync();
}

QString Preferences::map_paint(const QString& quantity) const {
    return settings_->value(QStringLiteral("map-paint")).toMap()[quantity].toString();
}

void Preferences::set_map_paint(const QString& quantity, const QString& how) {
    QVariantMap all = settings_->value(QStringLiteral("map-paint")).toMap();
    all[quantity] = how;
    settings_->setValue(QStringLiteral("map-paint"), all);
    settings_->sync();
}

QStringList Preferences::windows() const {
    return settings_->value(QStringLiteral("windows")).toStringList();
}

void Preferences::set_windows(const QStringList& windows) {
    settings_->setValue(QStringLiteral("windows"), windows);
    settings_->sync();
}

QStringList Preferences::recent_libraries() const {
    return settings_->value(QStringLiteral("libraries")).toStringList();
}

void Preferences::use_library(const QString& folder) {
    QStringList folders = recent_libraries();
    folders.removeAll(folder);
    folders.prepend(folder);
    settings_->setValue(QStringLiteral("libraries"), QStringList(folders.mid(0, 10)));
    settings_->sync();
}

void Preferences::forget_library(const QString& folder) {
    QStringList folders = recent_libraries();
    folders.removeAll(folder);
    settings_->setValue(QStringLiteral("libraries"), folders);
    settings_->sync();
}

std::string Preferences::focus(const std::filesystem::path& library) const {
    return settings_->value(focus_key(library)).toString().toStdString();
}

void Preferences::set_focus(const std::filesystem::path& library, const std::string& focus) {
    settings_->setValue(focus_key(library), QString::fromStdString(focus));
    settings_->sync();
}

}  // namespace rendak::app
