#include "app/workspace/lap_actions.h"

#include <QInputDialog>
#include <QMenu>
#include <algorithm>

namespace rendak::app {
namespace {

/// The lap as the library has it now; none for whole runs and what is gone, which is told.
std::optional<Lap> lap_of(Workspace& workspace, LapRef ref) {
    for (const Lap& lap : workspace.shown(workspace.library().laps(ref.run))) {
        if (lap.number == ref.lap) return lap;
    }
    workspace.tell(QObject::tr("A whole run is no lap: it is neither counted nor noted."));
    return std::nullopt;
}

}  // namespace

void switch_lap(Workspace& workspace, RunId run, const Lap& before, bool on) {
    const LapRef ref{run, before.number};
    workspace.edit(
        on ? QObject::tr("switch lap %1 in").arg(ref.lap) : QObject::tr("switch lap %1 out").arg(ref.lap),
        [&workspace, ref, on] {
            return workspace.library().switch_lap(ref, on, on ? "switched in by hand" : "switched out by hand");
        },
        [&workspace, ref, before] {
            return before.switched_by_hand ? workspace.library().switch_lap(ref, before.included, before.reason)
                                           : workspace.library().unswitch_lap(ref);
        });
}

void note_lap(Workspace& workspace, RunId run, const Lap& before, const QString& note) {
    const LapRef ref{run, before.number};
    workspace.edit(
        QObject::tr("note of lap %1").arg(ref.lap),
        [&workspace, ref, text = note.trimmed().toStdString()] { return workspace.library().set_lap_note(ref, text); },
        [&workspace, ref, text = before.note] { return workspace.library().set_lap_note(ref, text); }, Change::papers);
}

void ask_lap_note(Workspace& workspace, LapRef ref, QWidget* parent) {
    const auto lap = lap_of(workspace, ref);
    if (!lap) return;
    bool fine = false;
    const QString note = QInputDialog::getText(parent, QObject::tr("Note of a lap"), QObject::tr("Lap %1").arg(ref.lap),
                                               QLineEdit::Normal, QString::fromStdString(lap->note), &fine);
    if (fine && note.trimmed() != QString::fromStdString(lap->note)) note_lap(workspace, ref.run, *lap, note);
}

void toggle_lap(Workspace& workspace, LapRef ref) {
    const auto lap = lap_of(workspace, ref);
    if (!lap) return;
    if (lap->kind != LapKind::flying)
        return workspace.tell(QObject::tr("Lap %1 does not count anyway: only flying laps do (%2).")
                                  .arg(ref.lap)
                                  .arg(QString::fromStdString(lap->reason)));
    const bool on = !lap->included || lap->doubtful();
    switch_lap(workspace, ref.run, *lap, on);
    workspace.tell(on ? QObject::tr("Lap %1 counts. Ctrl+Z takes it back.").arg(ref.lap)
                      : QObject::tr("Lap %1 is left out. Ctrl+Z takes it back.").arg(ref.lap));
}

void add_lap_actions(QMenu& menu, Workspace& workspace, LapRef ref, QWidget* parent) {
    const auto add = [&](const QString& text, auto act) {
        QObject::connect(menu.addAction(text), &QAction::triggered, parent, act);
    };
    if (ref.lap != whole_run) {
        const auto laps = workspace.shown(workspace.library().laps(ref.run));
        const auto lap = std::find_if(laps.begin(), laps.end(), [&](const Lap& it) { return it.number == ref.lap; });
        if (lap != laps.end()) {
            const QString doubt = QString::fromStdString(lap->doubt);
            if (lap->kind == LapKind::flying)
                add(lap->doubtful() ? QObject::tr("Count lap %1 all the same (%2)").arg(ref.lap).arg(doubt)
                    : lap->included ? QObject::tr("Leave lap %1 out").arg(ref.lap)
                                    : QObject::tr("Count lap %1").arg(ref.lap),
                    [&workspace, ref] { toggle_lap(workspace, ref); });
            add(QObject::tr("Note of lap %1 …").arg(ref.lap),
                [&workspace, ref, parent] { ask_lap_note(workspace, ref, parent); });
        }
    }
    add(QObject::tr("Show in the Logbook"), [&workspace, ref] { Q_EMIT workspace.lap_asked(ref); });
    const int slot = workspace.focus().slot_of(ref);
    if (slot < 0)
        add(QObject::tr("Pick this lap"), [&workspace, ref] { workspace.pick(ref); });
    else
        add(QObject::tr("Take this lap away"), [&workspace, slot] { workspace.focus().remove_slot(slot); });
}

}  // namespace rendak::app
