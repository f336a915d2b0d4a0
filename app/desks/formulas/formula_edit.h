#pragma once

#include <QCompleter>
#include <QPlainTextEdit>
#include <optional>

#include "core/formula/syntax.h"

namespace rendak::app {

/// The text of a formula: completes names while typing and underlines the part that is wrong.
class FormulaEdit : public QPlainTextEdit {
    Q_OBJECT
  public:
    explicit FormulaEdit(QWidget* parent = nullptr);

    void set_names(const QStringList& names);
    /// Bytes of the problem are those of the text as UTF-8.
    void show_problem(const std::optional<formula::Problem>& problem);
    /// Puts text at the cursor, with a blank where two words would touch.
    void insert(const QString& text);
    [[nodiscard]] QCompleter& completer() { return *completer_; }

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    [[nodiscard]] QString word_before_cursor() const;
    void complete(const QString& name);

    QCompleter* completer_;
};

}  // namespace rendak::app
