#pragma once

#include <QDialog>

#include "app/text/plain_text.h"
#include "app/workspace/workspace.h"

class QListWidget;

namespace rendak::app {

/// The library as a whole: where it lies and what is in it, the ones used before, and what is done with it: another one
/// opened or made, a backup, a move, the check, the best laps.
class LibraryPage : public QDialog {
    Q_OBJECT
  public:
    explicit LibraryPage(Workspace& workspace, QWidget* parent = nullptr);

    void open_folder(const QString& folder);
    void back_up_to(const QString& folder);
    /// Copies the library, opens the copy, and removes the old files once the copy was found whole.
    void move_to(const QString& folder);

  Q_SIGNALS:
    /// Another library is to be used from now on.
    void library_asked(const QString& folder);

  private:
    void fill();
    [[nodiscard]] QString ask_for_folder(const QString& title);

    Workspace& workspace_;
    PlainLabel *place_, *content_;
    QListWidget* recent_;
};

}  // namespace rendak::app
