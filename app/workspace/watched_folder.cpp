#include "app/workspace/watched_folder.h"

#include <QDateTime>
#include <QDir>

namespace rendak::app {
namespace {

constexpr int look_every_ms = 700;

QString stamp(const QFileInfo& file) {
    return QStringLiteral("%1|%2|%3")
        .arg(file.fileName())
        .arg(file.size())
        .arg(file.lastModified().toMSecsSinceEpoch());
}

}  // namespace

WatchedFolder::WatchedFolder(Workspace& workspace, QObject* parent) : QObject(parent), workspace_(workspace) {
    timer_.setInterval(look_every_ms);
    connect(&timer_, &QTimer::timeout, this, &WatchedFolder::look);
    // A change wakes the timer; it goes on until every file has kept its size between two looks.
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, this, [this] { timer_.start(); });
    const auto seen = QString::fromStdString(workspace_.shown(workspace_.library().setting("watched_seen")))
                          .split(u'\n', Qt::SkipEmptyParts);
    seen_ = QSet<QString>(seen.begin(), seen.end());
    folder_ = QString::fromStdString(workspace_.shown(workspace_.library().setting("watched_folder")));
    if (!folder_.isEmpty()) {
        watcher_.addPath(folder_);
        timer_.start();
    }
}

void WatchedFolder::set_folder(const QString& folder) {
    if (!folder_.isEmpty()) watcher_.removePath(folder_);
    folder_ = folder;
    unsettled_.clear();
    if (const auto kept = workspace_.library().set_setting("watched_folder", folder.toStdString()); !kept)
        workspace_.tell(kept.error());
    if (folder.isEmpty()) return timer_.stop();
    watcher_.addPath(folder);
    timer_.start();
}

void WatchedFolder::look() {
    const QDir dir(folder_);
    if (!dir.exists()) {
        timer_.stop();
        workspace_.tell(tr("The watched folder %1 is not there any more; nothing is imported from it.").arg(folder_));
        return;
    }
    QStringList ready;
    QHash<QString, QString> waiting;
    const auto files = dir.entryInfoList({QStringLiteral("*.csv"), QStringLiteral("*.txt"), QStringLiteral("*.gpx"),
                                          QStringLiteral("*.mf4"), QStringLiteral("*.h5")},
                                         QDir::Files, QDir::Time | QDir::Reversed);
    for (const QFileInfo& file : files) {
        const QString now = stamp(file);
        if (seen_.contains(now)) continue;
        const QString path = file.absoluteFilePath();
        if (unsettled_.value(path) == now && file.size() > 0) {
            seen_.insert(now);
            ready << path;
        } else {
            waiting.insert(path, now);
        }
    }
    unsettled_ = waiting;
    if (waiting.isEmpty()) timer_.stop();
    if (ready.isEmpty()) return;
    remember();
    Q_EMIT found(ready);
}

void WatchedFolder::remember() {
    QStringList lines(seen_.begin(), seen_.end());
    while (lines.size() > 5000) lines.removeFirst();
    if (const auto kept = workspace_.library().set_setting("watched_seen", lines.join(u'\n').toStdString()); !kept)
        workspace_.tell(kept.error());
}

}  // namespace rendak::app
