#include "app/desks/logbook/import_facts_dialog.h"

#include <QCompleter>
#include <QCoreApplication>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/library/run_fields.h"
#include "core/recording/cell_number.h"

namespace rendak::app {

ImportFactsDialog::ImportFactsDialog(Workspace& workspace, qsizetype files, QWidget* parent) : QDialog(parent) {
    setObjectName(QStringLiteral("import-facts"));
    setWindowTitle(tr("What is known of %1").arg(counted(files, tr("file"), tr("files"))));
    resize(460, 420);
    auto* column = new QVBoxLayout(this);
    auto* hint = new PlainLabel(tr("All of it can stay empty, and be written later with the run's facts."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    const auto line = [&](const QString& label, const QString& hint_text, const std::vector<std::string>& known) {
        auto* edit = new QLineEdit;
        edit->setPlaceholderText(hint_text);
        edit->setAccessibleName(label);
        QStringList names;
        for (const std::string& name : known) names << QString::fromStdString(name);
        if (!names.isEmpty()) {
            auto* completer = new QCompleter(names, edit);
            completer->setCaseSensitivity(Qt::CaseInsensitive);
            completer->setFilterMode(Qt::MatchContains);
            edit->setCompleter(completer);
        }
        form->addRow(label, edit);
        return edit;
    };
    Library& library = workspace.library();
    std::vector<std::string> events;
    for (const EventRow& event : workspace.shown(library.events())) events.push_back(event.name);
    texts_.push_back({&RunFacts::event, line(tr("Event"), tr("by date and place"), events)});
    texts_.push_back({&RunFacts::session, line(tr("Session"), tr("Session 1"), {})});
    texts_.push_back({&RunFacts::driver, line(tr("Driver"), {}, workspace.shown(library.drivers()))});
    texts_.push_back({&RunFacts::car, line(tr("Car"), {}, workspace.shown(library.cars()))});
    for (const RunField& field : all_run_fields()) {
        const auto words = [](const char* text) {
            return text[0] == '\0' ? QString() : QCoreApplication::translate("RunField", text);
        };
        // What is written after the run is not known yet.
        if (field.kind == RunField::Kind::lap_time || field.text == &RunFacts::changes ||
            field.text == &RunFacts::remarks)
            continue;
        auto* edit =
            line(words(field.label), words(field.hint),
                 field.text == &RunFacts::tyre_set ? workspace.shown(library.tyre_sets()) : std::vector<std::string>());
        if (field.is_text())
            texts_.push_back({field.text, edit});
        else
            numbers_.push_back({field.number, edit});
    }
    column->addLayout(form);
    column->addStretch();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    auto* import = buttons->addButton(tr("Import"), QDialogButtonBox::AcceptRole);
    import->setProperty("primary", true);
    import->setDefault(true);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    // Enter imports at once: who knows nothing, or has no time, types nothing.
    import->setFocus();
}

RunFacts ImportFactsDialog::facts() const {
    RunFacts out;
    for (const Text& text : texts_) out.*text.member = text.edit->text().trimmed().toStdString();
    for (const Number& number : numbers_) {
        const std::string text = number.edit->text().trimmed().toStdString();
        const auto value = loose_number(text, text.find(',') == std::string::npos ? '.' : ',');
        if (value && value->rest.empty()) out.*number.member = value->value;
    }
    return out;
}

}  // namespace rendak::app
