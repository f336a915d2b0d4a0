#pragma once

#include <QFileSystemWatcher>
#include <QHash>
#include <QSet>
#include <QTimer>

#include "app/workspace/workspace.h"

namespace rendak::app {

/// A folder whose new logged files are imported by themselves once they no longer grow. Remembered in the library, with
/// the files that were seen.
class WatchedFolder : public QObject {
    Q_OBJECT
  public:
    explicit WatchedFolder(Workspace& workspace, QObject* parent = nullptr);
    [[nodiscard]] QString folder() const { return folder_; }
    /// Empty: none.
    void set_folder(const QString& folder);
    /// How often it was looked into.
    [[nodiscard]] int looks() const { return looks_; }
    /// What became of files that were found. One that came in is never offered again; one that did not is, once it has
    /// changed or the program starts anew.
    void settle(const QStringList& came_in, const QStringList& did_not);

  Q_SIGNALS:
    /// To be imported; settle() is told what became of them.
    void found(const QStringList& files);

  private:
    void look();
    void remember();

    Workspace& workspace_;
    QString folder_;
    QFileSystemWatcher watcher_;
    QTimer timer_;
    int looks_ = 0, quiet_looks_ = 0;
    QStringList seen_;                     ///< name, size and time of files that came in, the oldest first
    QHash<QString, QString> handed_over_;  ///< file -> name, size and time when it was offered, in or not
    QHash<QString, QString> unsettled_;    ///< file -> name, size and time at the last look
};

}  // namespace rendak::app
