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

  Q_SIGNALS:
    void found(const QStringList& files);

  private:
    void look();
    void remember();

    Workspace& workspace_;
    QString folder_;
    QFileSystemWatcher watcher_;
    QTimer timer_;
    QSet<QString> seen_;                 ///< name, size and time of files that were handed over
    QHash<QString, QString> unsettled_;  ///< file -> name, size and time at the last look
};

}  // namespace rendak::app
