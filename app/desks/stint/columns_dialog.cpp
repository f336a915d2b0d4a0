#include "app/desks/stint/columns_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/base/file_io.h"
#include "core/intake/column_sets.h"

namespace rendak::app {

ColumnsDialog::ColumnsDialog(Workspace& workspace, std::span<const std::shared_ptr<const RunData>> runs,
                             const QString& columns, QWidget* parent)
    : QDialog(parent), workspace_(workspace) {
    setObjectName(QStringLiteral("columns-dialog"));
    setWindowTitle(tr("Columns of lap figures"));
    resize(620, 460);
    auto* column = new QVBoxLayout(this);
    auto* hint = new PlainLabel(tr(
        "One column a line: a channel or formula, then low, mean, high, end, above or below a limit with its unit, at "
        "a place, touches; and \"in 5\" for a corner alone. A channel alone gets what fits its kind."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* row = new QHBoxLayout;
    channel_ = new QComboBox;
    channel_->setAccessibleName(tr("Channel"));
    channel_->setMinimumWidth(200);
    channel_->setMaxVisibleItems(24);
    channel_->addItem(tr("Lap time"), QStringLiteral("lap_time"));
    for (const ShownChannel& it : shown_channels(runs))
        channel_->addItem(shown(it.id).label, QString::fromStdString(it.id));
    statistic_ = new QComboBox;
    statistic_->setAccessibleName(tr("Figure"));
    for (const auto& [word, label] : {std::pair{"", tr("as it fits")},
                                      {"low", tr("low")},
                                      {"mean", tr("mean")},
                                      {"high", tr("high")},
                                      {"end", tr("at the lap's end")},
                                      {"above", tr("share above")},
                                      {"below", tr("share below")},
                                      {"at", tr("at a place")},
                                      {"touches", tr("touches")}})
        statistic_->addItem(label, QString::fromLatin1(word));
    limit_ = new QLineEdit;
    limit_->setAccessibleName(tr("Limit or place"));
    limit_->setPlaceholderText(tr("95 °C, 1200 m"));
    corner_ = new QLineEdit;
    corner_->setAccessibleName(tr("Corner"));
    corner_->setPlaceholderText(tr("corner"));
    corner_->setMaximumWidth(70);
    auto* add = new QPushButton(tr("Add"));
    connect(add, &QPushButton::clicked, this, &ColumnsDialog::add_line);
    row->addWidget(channel_, 2);
    row->addWidget(statistic_);
    row->addWidget(limit_, 1);
    row->addWidget(corner_);
    row->addWidget(add);
    column->addLayout(row);
    lines_ = new QPlainTextEdit;
    lines_->setAccessibleName(tr("Columns"));
    lines_->setPlainText(QString(columns).replace(QStringLiteral("; "), QStringLiteral("\n")));
    column->addWidget(lines_, 1);
    problem_ = new PlainLabel;
    problem_->setWordWrap(true);
    problem_->setObjectName(QStringLiteral("columns-problem"));
    column->addWidget(problem_);
    auto* sets = new QHBoxLayout;
    const auto button = [&](const QString& label, auto act) {
        auto* it = new QPushButton(label);
        connect(it, &QPushButton::clicked, this, act);
        sets->addWidget(it);
    };
    button(tr("Keep as a set …"), [this] {
        const QString name = QInputDialog::getText(this, tr("Keep these columns"), tr("Name of the set"));
        if (!name.isEmpty()) keep_as(name);
    });
    button(tr("Remove a set …"), [this] {
        QStringList names;
        for (const auto& [name, text] : workspace_.shown(column_sets(workspace_.library())))
            names << QString::fromStdString(name);
        if (names.isEmpty()) return show_problem(tr("There is no set of your own yet."));
        bool chosen = false;
        const QString name = QInputDialog::getItem(this, tr("Remove a set"), tr("Set"), names, 0, false, &chosen);
        if (!chosen) return;
        ColumnSets left = workspace_.shown(column_sets(workspace_.library()));
        left.erase(name.toStdString());
        edit_sets(tr("remove the set of columns %1").arg(name), left);
    });
    button(tr("Save sets to a file …"), [this] {
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Save sets of columns"), QStringLiteral("columns.json"), tr("Sets of columns (*.json)"));
        if (!file.isEmpty()) save_sets(file);
    });
    button(tr("Take sets from a file …"), [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Take sets of columns"), QString(), tr("Sets of columns (*.json)"));
        if (!file.isEmpty()) take_sets(file);
    });
    sets->addStretch();
    column->addLayout(sets);
    buttons_ = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons_, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons_);
    connect(lines_, &QPlainTextEdit::textChanged, this, &ColumnsDialog::check);
    check();
}

QString ColumnsDialog::columns() const {
    QStringList out;
    for (const QString& line : lines_->toPlainText().split(u'\n')) {
        if (!line.trimmed().isEmpty()) out << line.trimmed();
    }
    return out.join(QStringLiteral("; "));
}

void ColumnsDialog::add_line() {
    QString line = channel_->currentData().toString();
    if (line.contains(u' ')) line = u'"' + line + u'"';
    const QString word = statistic_->currentData().toString();
    if (!word.isEmpty() && line != QLatin1String("lap_time")) line += u' ' + word;
    if (!word.isEmpty() && !limit_->text().trimmed().isEmpty()) line += u' ' + limit_->text().trimmed();
    if (!word.isEmpty() && !corner_->text().trimmed().isEmpty())
        line += QStringLiteral(" in ") + corner_->text().trimmed();
    lines_->appendPlainText(line);
}

void ColumnsDialog::show_problem(const QString& problem) {
    problem_->setText(problem);
    buttons_->button(QDialogButtonBox::Ok)->setEnabled(problem.isEmpty());
}

void ColumnsDialog::check() {
    const auto read = lap_columns(columns().toStdString());
    show_problem(read ? QString() : QString::fromStdString(read.error().text()));
}

bool ColumnsDialog::edit_sets(const QString& what, const ColumnSets& sets) {
    // The edit outlives the dialog.
    Library* library = &workspace_.library();
    const ColumnSets before = workspace_.shown(column_sets(*library));
    const bool done = workspace_.edit(
        what, [library, sets] { return set_column_sets(*library, sets); },
        [library, before] { return set_column_sets(*library, before); }, Change::marks);
    if (done) Q_EMIT sets_changed();
    return done;
}

bool ColumnsDialog::keep_as(const QString& name) {
    ColumnSets sets = workspace_.shown(column_sets(workspace_.library()));
    sets[name.trimmed().toStdString()] = columns().toStdString();
    const bool kept = edit_sets(tr("keep the set of columns %1").arg(name), sets);
    if (kept) workspace_.tell(tr("Kept as %1.").arg(name));
    return kept;
}

bool ColumnsDialog::save_sets(const QString& file) {
    const auto sets = column_sets(workspace_.library());
    const auto saved =
        sets ? write_file(file.toStdString(), column_sets_to_json(*sets)) : Result<void>(pass_on(sets.error()));
    if (!saved) workspace_.tell(saved.error());
    return saved.has_value();
}

bool ColumnsDialog::take_sets(const QString& file) {
    const auto text = read_text_file(file.toStdString());
    const auto sets =
        text ? column_sets_from_json(*text, file.toStdString()) : Result<ColumnSets>(pass_on(text.error()));
    if (!sets) {
        workspace_.tell(sets.error());
        return false;
    }
    ColumnSets all = workspace_.shown(column_sets(workspace_.library()));
    for (const auto& [name, columns] : *sets) all[name] = columns;
    if (!edit_sets(tr("take sets of columns"), all)) return false;
    workspace_.tell(tr("%1 taken.").arg(counted(static_cast<qsizetype>(sets->size()), tr("set"), tr("sets"))));
    return true;
}

}  // namespace rendak::app
