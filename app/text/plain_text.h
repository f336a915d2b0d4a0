#pragma once

#include <QLabel>

namespace rendak::app {

/// Names come from files, loggers and colleagues: a run can be called "<img src=/dev/zero>". So text is plain text
/// everywhere. tools/check-floors refuses a QLabel made elsewhere.

/// A label that shows its text as it is.
class PlainLabel : public QLabel {
  public:
    explicit PlainLabel(const QString& text = {}, QWidget* parent = nullptr) : QLabel(parent) {
        setTextFormat(Qt::PlainText);
        setText(text);
    }
};

/// A label with links. Whoever fills it passes names through toHtmlEscaped(); it reads no pictures or other resources.
class LinkLabel : public QLabel {
  public:
    explicit LinkLabel(QWidget* parent = nullptr) : QLabel(parent) { setTextFormat(Qt::RichText); }
};

/// From here on tooltips of widgets and of lists, and labels that Qt makes by itself, show plain text too.
void keep_text_plain();

}  // namespace rendak::app
