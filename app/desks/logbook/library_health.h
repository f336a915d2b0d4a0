#pragma once

#include <QFrame>

#include "app/text/plain_text.h"
#include "app/workspace/workspace.h"
#include "core/intake/check_library.h"

class QPushButton;

namespace rendak::app {

/// Says that recordings lie in the library's folder that the catalogue does not know, and files them again. Hidden
/// while there are none, or when the user has put it off.
class UnfiledBar : public QFrame {
    Q_OBJECT
  public:
    explicit UnfiledBar(Workspace& workspace, QWidget* parent = nullptr);
    /// Looks again, on a worker.
    void look();
    void file_them();
    [[nodiscard]] QString text() const { return text_->text(); }

  private:
    Workspace& workspace_;
    PlainLabel* text_;
    QPushButton* file_;
    bool put_off_ = false;
};

/// Reads everything in the library in the background and shows what is wrong, and how it is mended.
void check_library_of(Workspace& workspace, QWidget* parent);
/// What the check found, in sentences.
[[nodiscard]] QStringList sentences_of(const LibraryCheck& check);

}  // namespace rendak::app
