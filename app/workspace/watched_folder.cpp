#include "app/workspace/watched_folder.h"

#include <QDateTime>
#include <QDir>

#include "app/text/file_kinds.h"

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
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, this, [this] {
        quiet_looks_ = 0;
        timer_.start();
    });
    seen_ = QString::fromStdString(workspace_.shown(workspace_.library().setting("watched_seen")))
                .split(u'\n', Qt::SkipEmptyParts);
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
    handed_over_.clear();
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
    const auto files = dir.entryInfoList(logged_file_patterns(), QDir::Files, QDir::Time | QDir::Reversed);
    const QSet<QString> seen(seen_.begin(), seen_.end());
    for (const QFileInfo& file : files) {
        const QString now = stamp(file);
        const QString path = file.absoluteFilePath();
        if (seen.contains(now) || handed_over_.value(path) == now) continue;
        if (unsettled_.value(path) == now && file.size() > 0) {
            handed_over_.insert(path, now);
            ready << path;
        } else {
            waiting.insert(path, now);
        }
    }
    unsettled_ = waiting;
    ++looks_;
    // A last look some time after all is settled: a change within the clock's step would be missed.
    if (waiting.isEmpty() && ++quiet_looks_ > 3) timer_.stop();
    if (!waiting.isEmpty()) quiet_looks_ = 0;
    if (!ready.isEmpty()) Q_EMIT found(ready);
}

void WatchedFolder::settle(const QStringList& came_in, const QStringList& did_not) {
    for (const QString& file : came_in) {
        // Files that were imported by hand are none of this folder's.
        if (const QString stamp = handed_over_.take(QFileInfo(file).absoluteFilePath()); !stamp.isEmpty())
            seen_ << stamp;
    }
    Q_UNUSED(did_not)  // they stay handed over as they are: another size or time offers them again
    remember();
}

void WatchedFolder::remember() {
    // Of files that are gone nothing has to be known; what is left is as long as the folder.
    const QDir dir(folder_);
    QStringList kept_lines;
    for (const QString& stamp : seen_) {
        if (dir.exists(stamp.section(u'|', 0, -3))) kept_lines << stamp;
    }
    seen_ = kept_lines;
    if (const auto kept = workspace_.library().set_setting("watched_seen", seen_.join(u'\n').toStdString()); !kept)
        workspace_.tell(kept.error());
}

}  // namespace rendak::app
