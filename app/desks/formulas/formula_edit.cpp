#include "app/desks/formulas/formula_edit.h"

#include <QAbstractItemView>
#include <QKeyEvent>
#include <QScrollBar>
#include <QStringListModel>

#include "app/theme/theme.h"

namespace rendak::app {

FormulaEdit::FormulaEdit(QWidget* parent) : QPlainTextEdit(parent) {
    setObjectName(QStringLiteral("formula-text"));
    setAccessibleName(tr("Formula"));
    setTabChangesFocus(true);
    // Large enough to tell round brackets from square ones.
    setFont(formula_font());
    setPlaceholderText(tr("speed * yaw_rate − lateral_acceleration"));
    completer_ = new QCompleter(this);
    completer_->setModel(new QStringListModel(completer_));
    completer_->setCaseSensitivity(Qt::CaseInsensitive);
    completer_->setFilterMode(Qt::MatchContains);
    completer_->setWidget(this);
    completer_->setMaxVisibleItems(8);
    connect(completer_, qOverload<const QString&>(&QCompleter::activated), this, &FormulaEdit::complete);
}

void FormulaEdit::set_names(const QStringList& names) {
    auto* model = static_cast<QStringListModel*>(completer_->model());
    if (model->stringList() != names) model->setStringList(names);
}

void FormulaEdit::show_problem(const std::optional<formula::Problem>& problem) {
    QList<QTextEdit::ExtraSelection> marks;
    if (problem) {
        const QByteArray bytes = toPlainText().toUtf8();
        const auto place = [&](std::size_t byte) {
            return static_cast<int>(QString::fromUtf8(bytes.left(static_cast<qsizetype>(byte))).size());
        };
        QTextEdit::ExtraSelection mark;
        mark.format.setUnderlineStyle(QTextCharFormat::WaveUnderline);
        mark.format.setUnderlineColor(theme().lost);
        mark.format.setBackground(theme().range);
        mark.cursor = textCursor();
        const int end = static_cast<int>(toPlainText().size());
        mark.cursor.setPosition(std::min(place(problem->from), end));
        mark.cursor.setPosition(std::min(std::max(place(problem->to), place(problem->from)), end),
                                QTextCursor::KeepAnchor);
        marks << mark;
    }
    setExtraSelections(marks);
}

void FormulaEdit::insert(const QString& text) {
    QTextCursor cursor = textCursor();
    const int at = cursor.selectionStart();
    const auto is_word = [](QChar c) { return c.isLetterOrNumber() || c == u'_'; };
    const QString all = toPlainText();
    const bool touches = at > 0 && is_word(all[at - 1]) && !text.isEmpty() && is_word(text[0]);
    cursor.insertText(touches ? u' ' + text : text);
    // Behind the opening bracket of a function, where its argument belongs.
    if (text.endsWith(QLatin1String("()"))) cursor.movePosition(QTextCursor::Left);
    setTextCursor(cursor);
    setFocus();
}

QString FormulaEdit::word_before_cursor() const {
    const QString line = toPlainText().left(textCursor().position());
    qsizetype from = line.size();
    while (from > 0 && (line[from - 1].isLetterOrNumber() || line[from - 1] == u'_' || line[from - 1] == u'.')) --from;
    const QString word = line.mid(from);
    return !word.isEmpty() && (word[0].isLetter() || word[0] == u'_') ? word : QString();
}

void FormulaEdit::complete(const QString& name) {
    QTextCursor cursor = textCursor();
    const auto length = static_cast<int>(word_before_cursor().size());
    cursor.movePosition(QTextCursor::Left, QTextCursor::KeepAnchor, length);
    cursor.insertText(name);
    if (name.endsWith(QLatin1String("()"))) cursor.movePosition(QTextCursor::Left);
    setTextCursor(cursor);
}

void FormulaEdit::keyPressEvent(QKeyEvent* event) {
    QAbstractItemView* list = completer_->popup();
    if (list->isVisible()) {
        switch (event->key()) {
            case Qt::Key_Enter:
            case Qt::Key_Return:
            case Qt::Key_Escape:
            case Qt::Key_Tab:
            case Qt::Key_Backtab:
                event->ignore();  // the list takes these
                return;
            default:
                break;
        }
    }
    // Plain Enter is a new line; with Ctrl it saves, which the desk sees to.
    if (event->matches(QKeySequence::InsertParagraphSeparator) && event->modifiers() & Qt::ControlModifier) {
        event->ignore();
        return;
    }
    QPlainTextEdit::keyPressEvent(event);
    const QString word = word_before_cursor();
    const bool typed = !event->text().isEmpty() && event->text()[0].isPrint();
    if (!typed || word.size() < 2) {
        list->hide();
        return;
    }
    if (word != completer_->completionPrefix()) {
        completer_->setCompletionPrefix(word);
        list->setCurrentIndex(completer_->completionModel()->index(0, 0));
    }
    const bool done =
        completer_->completionCount() == 0 ||
        (completer_->completionCount() == 1 && completer_->currentCompletion().compare(word, Qt::CaseInsensitive) == 0);
    if (done) {
        list->hide();
        return;
    }
    QRect place = cursorRect();
    place.setWidth(list->sizeHintForColumn(0) + list->verticalScrollBar()->sizeHint().width() + 12);
    completer_->complete(place);
}

}  // namespace rendak::app
