#include "app/desks/logbook/run_facts_panel.h"

#include <QApplication>
#include <QCompleter>
#include <QDateTimeEdit>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QStringListModel>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/analysis/sheet_difference.h"
#include "core/base/time_zone.h"
#include "core/library/run_fields.h"

namespace rendak::app {
namespace {

/// "84.318", "1:24.318", "1:24,3".
std::optional<double> read_number(QString text, bool is_time) {
    text = text.trimmed().replace(u',', u'.');
    double minutes = 0;
    if (is_time && text.contains(u':')) {
        bool fine = false;
        minutes = text.section(u':', 0, 0).toDouble(&fine);
        if (!fine) return std::nullopt;
        text = text.section(u':', 1);
    }
    bool fine = false;
    const double value = text.toDouble(&fine);
    if (!fine || value < 0) return std::nullopt;
    return minutes * 60 + value;
}

QStringList strings(const std::vector<std::string>& texts) {
    QStringList out;
    for (const std::string& text : texts) out << QString::fromStdString(text);
    return out;
}

QStringList zone_list() {
    QStringList out;
    for (const std::string& name : zone_names()) out << QString::fromStdString(name);
    return out;
}

}  // namespace

RunFactsPanel::RunFactsPanel(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* area = new QScrollArea(this);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget(area->viewport());
    auto* form = new QFormLayout(inside);
    form->setContentsMargins(2, 4, 8, 4);
    form->setVerticalSpacing(6);
    add(form, tr("Run"), &RunFacts::name);
    add(form, tr("Event"), &RunFacts::event, {}, [this] {
        std::vector<std::string> names;
        for (const EventRow& event : workspace_.shown(workspace_.library().events())) names.push_back(event.name);
        return names;
    });
    auto* event_row = new QHBoxLayout;
    event_ = new PlainLabel;
    event_->setProperty("role", QStringLiteral("mute"));
    event_->setWordWrap(true);
    auto* edit_event = new QPushButton(tr("Event …"));
    edit_event->setObjectName(QStringLiteral("edit-event"));
    edit_event->setToolTip(tr("Place, date, weather and remarks of the whole event"));
    connect(edit_event, &QPushButton::clicked, this, &RunFactsPanel::edit_event);
    event_row->addWidget(event_, 1);
    event_row->addWidget(edit_event);
    form->addRow(QString(), event_row);
    add(form, tr("Session"), &RunFacts::session);
    add(form, tr("Driver"), &RunFacts::driver, {}, [this] { return workspace_.shown(workspace_.library().drivers()); });
    add(form, tr("Car"), &RunFacts::car, {}, [this] { return workspace_.shown(workspace_.library().cars()); });
    auto* date_row = new QHBoxLayout;
    date_ = new QDateTimeEdit;
    date_->setDisplayFormat(QStringLiteral("yyyy-MM-dd HH:mm"));
    date_->setTimeSpec(Qt::UTC);
    date_->setCalendarPopup(true);
    date_->setAccessibleName(tr("Date and time of the first run (24 hours)"));
    set_date_ = new QPushButton(tr("Set date"));
    set_date_->setToolTip(tr("Corrects the logger's clock for this run; with several runs, all move by the same time"));
    connect(set_date_, &QPushButton::clicked, this, &RunFactsPanel::set_date);
    date_row->addWidget(date_, 1);
    date_row->addWidget(set_date_);
    form->addRow(tr("Date"), date_row);
    fill_ = new QPushButton(tr("Fill from the setup sheets"));
    fill_->setObjectName(QStringLiteral("fill-changes"));
    connect(fill_, &QPushButton::clicked, this, &RunFactsPanel::fill_changes);
    for (const RunField& field : all_run_fields()) {
        const auto translated = [](const char* text) {
            return text[0] == '\0' ? QString() : QCoreApplication::translate("RunField", text);
        };
        if (!field.is_text())
            add_number(form, translated(field.label), field.number, translated(field.hint),
                       field.kind == RunField::Kind::lap_time);
        else if (field.choices != nullptr)
            add(form, translated(field.label), field.text, translated(field.hint),
                [this] { return workspace_.shown(workspace_.library().tyre_sets()); });
        else
            add(form, translated(field.label), field.text, translated(field.hint));
        if (field.text == &RunFacts::changes) form->addRow(QString(), fill_);
    }
    habit_ = new QLineEdit;
    habit_->setObjectName(QStringLiteral("habit"));
    habit_->setAccessibleName(tr("Known habits"));
    habit_->setPlaceholderText(tr("what has proved true for this driver, car and tyre set"));
    habit_->setToolTip(tr("Kept for this driver, car and tyre set, and shown with each of their runs"));
    connect(habit_, &QLineEdit::editingFinished, this, &RunFactsPanel::commit_habit);
    form->addRow(tr("Known habits"), habit_);
    area->setWidget(inside);
    outer->addWidget(area);
}

void RunFactsPanel::add(QFormLayout* form, const QString& label, std::string RunFacts::*member, const QString& hint,
                        const std::function<std::vector<std::string>()>& known) {
    auto field = std::make_unique<Field>();
    field->label = label;
    field->read = [member](const RunRow& row) { return QString::fromStdString(row.*member); };
    field->write = [member](RunFacts& facts, const QString& text) {
        facts.*member = text.trimmed().toStdString();
        return true;
    };
    field->edit = new QLineEdit;
    field->edit->setAccessibleName(label);
    field->edit->setObjectName(QStringLiteral("fact-") + label);
    field->edit->setProperty("hint", hint);
    if (known) {
        auto* completer = new QCompleter(new QStringListModel(field->edit), field->edit);
        completer->setCaseSensitivity(Qt::CaseInsensitive);
        field->edit->setCompleter(completer);
        connect(field->edit, &QLineEdit::textEdited, completer, [completer, known] {
            static_cast<QStringListModel*>(completer->model())->setStringList(strings(known()));
        });
    }
    connect(field->edit, &QLineEdit::editingFinished, this, [this, raw = field.get()] { commit(*raw); });
    form->addRow(label, field->edit);
    fields_.push_back(std::move(field));
}

void RunFactsPanel::add_number(QFormLayout* form, const QString& label, std::optional<double> RunFacts::*member,
                               const QString& hint, bool is_time) {
    auto field = std::make_unique<Field>();
    field->label = label;
    field->read = [member, is_time](const RunRow& row) {
        const auto& value = row.*member;
        return !value ? QString() : is_time ? lap_time(*value) : QString::number(*value);
    };
    field->write = [member, is_time](RunFacts& facts, const QString& text) {
        const auto value = read_number(text, is_time);
        if (!value && !text.trimmed().isEmpty()) return false;
        facts.*member = value;
        return true;
    };
    field->edit = new QLineEdit;
    field->edit->setAccessibleName(label);
    field->edit->setObjectName(QStringLiteral("fact-") + label);
    field->edit->setProperty("hint", hint);
    connect(field->edit, &QLineEdit::editingFinished, this, [this, raw = field.get()] { commit(*raw); });
    form->addRow(label, field->edit);
    fields_.push_back(std::move(field));
}

void RunFactsPanel::show_runs(const std::vector<RunId>& runs) {
    // A field that is being typed in is finished first.
    for (const auto& field : fields_) {
        if (field->edit->isModified() && runs != runs_) commit(*field);
    }
    runs_ = runs;
    std::vector<RunRow> rows;
    for (const RunId id : runs) {
        if (auto row = workspace_.library().run(id)) rows.push_back(std::move(*row));
    }
    setEnabled(!rows.empty());
    for (const auto& field : fields_) {
        QStringList values;
        for (const RunRow& row : rows) values << field->read(row);
        values.removeDuplicates();
        field->edit->setText(values.size() == 1 ? values.front() : QString());
        field->edit->setPlaceholderText(values.size() > 1 ? tr("several: %1").arg(values.join(QStringLiteral(", ")))
                                                          : field->edit->property("hint").toString());
        field->edit->setModified(false);
        field->edit->setCursorPosition(0);
    }
    if (rows.empty()) {
        event_->clear();
        return;
    }
    if (!habit_->isModified())
        habit_->setText(QString::fromStdString(workspace_.shown(workspace_.library().setting(habit_key(rows[0])))));
    fill_->setEnabled(rows.size() == 1 && rows[0].setup);
    // A run without a date is most likely of today.
    const double shown_s = rows[0].start_unix_s.value_or(static_cast<double>(QDateTime::currentSecsSinceEpoch()));
    // The field knows UTC only: it is given, and gives back, what the clocks of the event show.
    zone_ = rows[0].zone;
    const double ahead_s = zone_offset_s(zone_, shown_s).value_or(0);
    date_->setDateTime(QDateTime::fromSecsSinceEpoch(static_cast<qint64>(shown_s + ahead_s), Qt::UTC));
    date_->setToolTip(ahead_s == 0 ? tr("In UTC; the event can have a zone of its own")
                                   : tr("By the clocks of the event, %1").arg(QString::fromStdString(zone_)));
    set_date_->setText(rows[0].start_unix_s ? tr("Set date") : tr("Give it this date"));
    set_date_->setEnabled(true);
    event_->clear();
    for (const EventRow& event : workspace_.shown(workspace_.library().events())) {
        if (event.name != rows[0].event) continue;
        QStringList parts;
        const std::string zone = event.zone == "UTC" || event.zone == "+00:00" ? std::string() : event.zone;
        for (const std::string* part : {&event.place, &event.date, &zone, &event.weather}) {
            if (!part->empty()) parts << QString::fromStdString(*part);
        }
        event_->setText(parts.isEmpty() ? tr("place, date and weather not entered")
                                        : parts.join(QStringLiteral(" · ")));
    }
}

void RunFactsPanel::commit(Field& field) {
    if (!field.edit->isModified() || runs_.empty()) return;
    field.edit->setModified(false);
    std::vector<std::pair<RunId, RunFacts>> after;
    for (const RunId id : runs_) {
        const auto row = workspace_.library().run(id);
        if (!row) continue;
        RunFacts facts = *row;
        if (!field.write(facts, field.edit->text())) {
            workspace_.tell(Error{ErrorCode::bad_input,
                                  tr("\"%1\" cannot be understood as %2; nothing was changed.")
                                      .arg(field.edit->text(), field.label)
                                      .toStdString(),
                                  ""});
            show_runs(runs_);
            return;
        }
        if (facts.event.empty()) facts.event = "Unfiled";
        if (facts.session.empty()) facts.session = "Session 1";
        if (facts == static_cast<const RunFacts&>(*row)) continue;
        after.emplace_back(id, std::move(facts));
    }
    if (!after.empty()) set_facts(tr("edit of %1").arg(field.label), after);
}

std::string RunFactsPanel::habit_key(const RunRow& row) {
    return "habit|" + row.driver + "|" + row.car + "|" + row.tyre_set;
}

void RunFactsPanel::commit_habit() {
    if (!habit_->isModified() || runs_.empty()) return;
    habit_->setModified(false);
    const auto row = workspace_.library().run(runs_.front());
    if (!row) return;
    const std::string key = habit_key(*row), before = workspace_.shown(workspace_.library().setting(key)),
                      after = habit_->text().trimmed().toStdString();
    if (before == after) return;
    workspace_.edit(
        tr("note of a habit"), [this, key, after] { return workspace_.library().set_setting(key, after); },
        [this, key, before] { return workspace_.library().set_setting(key, before); }, Change::papers);
}

void RunFactsPanel::set_facts(const QString& what, const std::vector<std::pair<RunId, RunFacts>>& after) {
    std::vector<std::pair<RunId, RunFacts>> before;
    for (const auto& [id, facts] : after) {
        if (const auto row = workspace_.library().run(id)) before.emplace_back(id, *row);
    }
    const auto put = [this](const std::vector<std::pair<RunId, RunFacts>>& all) -> Result<void> {
        for (const auto& [id, facts] : all) {
            if (auto done = workspace_.library().set_facts(id, facts); !done) return done;
        }
        return {};
    };
    workspace_.edit(
        what, [put, after] { return put(after); }, [put, before] { return put(before); }, Change::papers);
}

void RunFactsPanel::set_date() {
    if (runs_.empty()) return;
    const auto first = workspace_.library().run(runs_.front());
    if (!first) return workspace_.tell(first.error());
    const double wanted = unix_of_local(static_cast<double>(date_->dateTime().toSecsSinceEpoch()), zone_);
    // The field shows minutes: seconds stay as they are. Runs without a date begin together with the first.
    const double by = first->start_unix_s ? wanted - std::floor(*first->start_unix_s / 60) * 60 : 0;
    if (first->start_unix_s && by == 0) return;
    struct Shift {
        RunId run;
        double before, after;
    };
    std::vector<Shift> shifts;
    for (const RunId id : runs_) {
        const auto row = workspace_.library().run(id);
        if (row) shifts.push_back({id, row->clock_shift_s, row->start_unix_s ? row->clock_shift_s + by : wanted});
    }
    const auto put = [this, shifts](double Shift::*which) -> Result<void> {
        for (const Shift& shift : shifts) {
            if (auto done = workspace_.library().set_clock_shift(shift.run, shift.*which); !done) return done;
        }
        return {};
    };
    workspace_.edit(
        tr("date"), [put] { return put(&Shift::after); }, [put] { return put(&Shift::before); }, Change::papers);
}

void RunFactsPanel::edit_event() {
    if (runs_.empty()) return;
    const auto row = workspace_.library().run(runs_.front());
    if (!row) return;
    EventRow before;
    before.name = row->event;
    for (const EventRow& event : workspace_.shown(workspace_.library().events())) {
        if (event.name == row->event) before = event;
    }
    QDialog dialog(this);
    dialog.setWindowTitle(QString::fromStdString(before.name));
    auto* form = new QFormLayout(&dialog);
    const auto line = [&](const QString& label, const std::string& text) {
        auto* edit = new QLineEdit(QString::fromStdString(text));
        edit->setMinimumWidth(320);
        edit->setAccessibleName(label);
        form->addRow(label, edit);
        return edit;
    };
    auto *place = line(tr("Place"), before.place), *date = line(tr("Date"), before.date),
         *weather = line(tr("Weather"), before.weather), *remarks = line(tr("Remarks"), before.remarks);
    date->setPlaceholderText(QStringLiteral("2026-06-13"));
    auto* zone = line(tr("Time zone"), before.zone);
    zone->setPlaceholderText(tr("Europe/Berlin, or +02:00: ahead of UTC"));
    auto* names = new QCompleter(zone_list(), zone);
    names->setCaseSensitivity(Qt::CaseInsensitive);
    names->setFilterMode(Qt::MatchContains);
    zone->setCompleter(names);
    zone->setObjectName(QStringLiteral("event-zone"));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    form->addRow(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    EventRow after = before;
    after.place = place->text().toStdString();
    after.date = date->text().toStdString();
    after.weather = weather->text().toStdString();
    after.remarks = remarks->text().toStdString();
    after.zone = zone->text().trimmed().toStdString();
    if (after == before) return;
    workspace_.edit(
        tr("edit of the event"), [this, after] { return workspace_.library().put_event(after); },
        [this, before] { return workspace_.library().put_event(before); }, Change::papers);
}

void RunFactsPanel::fill_changes() {
    if (runs_.size() != 1) return;
    const auto row = workspace_.library().run(runs_.front());
    if (!row) return;
    // The run before: the latest earlier one of the same car that has a sheet.
    std::optional<RunRow> earlier;
    for (RunRow& other : workspace_.shown(workspace_.library().runs())) {
        if (other.id == row->id || other.car != row->car || !other.setup || !other.start_unix_s || !row->start_unix_s)
            continue;
        if (*other.start_unix_s >= *row->start_unix_s) continue;
        if (!earlier || *other.start_unix_s > *earlier->start_unix_s) earlier = std::move(other);
    }
    if (!earlier) return workspace_.tell(tr("There is no earlier run of this car with a setup sheet to compare with."));
    const auto now = workspace_.library().setup(row->setup), then = workspace_.library().setup(earlier->setup);
    if (!now || !then) return workspace_.tell((now ? then : now).error());
    const auto differences = sheet_differences(then->values, now->values);
    if (differences.empty())
        return workspace_.tell(tr("The setup sheet is the same as in %1.").arg(QString::fromStdString(earlier->name)));
    RunFacts facts = *row;
    facts.changes = changes_text(differences);
    if (facts.changes == row->changes) return;
    set_facts(tr("changes"), {{row->id, facts}});
    workspace_.tell(tr("Changes since %1 filled in from the setup sheets.").arg(QString::fromStdString(earlier->name)));
}

}  // namespace rendak::app
