// What the Track desk learns from the laps of the library.
#include "app/desks/track/track_desk.h"

#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QGridLayout>
#include <QGroupBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QStackedLayout>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/intake/road_laps.h"
#include "core/intake/shared_track.h"
#include "core/laps/cut.h"
#include "core/track/edit.h"
#include "core/track/learn.h"

namespace rendak::app {

void TrackDesk::learn(const QString& text,
                      const std::function<Result<Track>(Library&, TrackId, Track, const JobContext&)>& work) {
    if (track_ == nullptr) return;
    workspace_.jobs().run<Track>(
        text,
        [folder = workspace_.library().folder(), id = id_, track = *track_,
         work](const JobContext& job) -> Result<Track> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return work(**library, id, track, job);
        },
        [this, text, id = id_, before = track_to_geojson(*track_)](Result<Track> edited) {
            // Whatever track is shown by now: what was learnt belongs to the one that it was learnt for.
            if (!edited) return workspace_.tell(edited.error());
            const auto state = track_state(workspace_.library(), id);
            if (!state) return workspace_.tell(state.error());
            const auto now = read_track(workspace_.library(), id);
            if (!now) return workspace_.tell(now.error());
            if (track_to_geojson(*now) != before)
                return workspace_.tell(
                    tr("The track was edited meanwhile; what was learnt is not taken. Learn it again."));
            store_state(text, id, edited_state(*state, *edited, 0), false);
        });
}

void TrackDesk::learn_edges_from_spread() {
    learn(tr("edges from the spread of laps"),
          [](Library& library, TrackId id, Track track, const JobContext& job) -> Result<Track> {
              const auto laps = road_laps(library, id, job);
              if (!laps) return pass_on(laps.error());
              auto edges = edges_from_spread(track, laps->left_m);
              if (!edges) return pass_on(edges.error());
              track.edges = std::move(*edges);
              return track;
          });
}

void TrackDesk::learn_edges_from_laps(LapRef left, LapRef right) {
    learn(tr("edges from slow laps"),
          [left, right](Library& library, TrackId, Track track, const JobContext&) -> Result<Track> {
              const auto left_m = driven_offsets(library, left);
              if (!left_m) return pass_on(left_m.error());
              const auto right_m = driven_offsets(library, right);
              if (!right_m) return pass_on(right_m.error());
              auto edges = edges_from_edge_laps(track, *left_m, *right_m);
              if (!edges) return pass_on(edges.error());
              track.edges = std::move(*edges);
              return track;
          });
}

void TrackDesk::ask_edge_laps() {
    if (track_ == nullptr) return;
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Edges from slow laps"));
    auto* form = new QFormLayout(&dialog);
    auto* guide = new PlainLabel(
        tr("Drive one slow lap with the left wheels on the left edge and one with the right wheels on the "
           "right edge, all the way round. A lap that strays is refused, with the place."));
    guide->setWordWrap(true);
    form->addRow(guide);
    auto *left = new QComboBox, *right = new QComboBox;
    std::vector<std::pair<double, LapRef>> laps;
    for (const RunRow& run : workspace_.shown(workspace_.library().runs())) {
        if (run.track != id_) continue;
        for (const Lap& lap : workspace_.shown(workspace_.library().laps(run.id))) {
            if (lap.complete()) laps.emplace_back(-lap.time_s(), LapRef{run.id, lap.number});
        }
    }
    // Slowest first: an edge lap is one of them.
    std::sort(laps.begin(), laps.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::map<std::int64_t, QString> names;
    for (const RunRow& run : workspace_.shown(workspace_.library().runs()))
        names[run.id.value] = QString::fromStdString(run.name);
    for (const auto& [time, lap] : laps) {
        const QString text = tr("%1, lap %2 (%3)").arg(names[lap.run.value]).arg(lap.lap).arg(lap_time(-time));
        left->addItem(text);
        right->addItem(text);
    }
    if (right->count() > 1) right->setCurrentIndex(1);
    form->addRow(tr("Along the left edge"), left);
    form->addRow(tr("Along the right edge"), right);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    form->addRow(buttons);
    if (laps.empty()) return workspace_.tell(tr("No complete lap was driven on this track."));
    if (dialog.exec() != QDialog::Accepted) return;
    learn_edges_from_laps(laps[static_cast<std::size_t>(left->currentIndex())].second,
                          laps[static_cast<std::size_t>(right->currentIndex())].second);
}

void TrackDesk::learn_height_and_banking() {
    learn(tr("height and banking from laps"),
          [](Library& library, TrackId id, Track track, const JobContext& job) -> Result<Track> {
              const auto laps = road_laps(library, id, job);
              if (!laps) return pass_on(laps.error());
              return with_height_and_banking(std::move(track), *laps);
          });
}

void TrackDesk::learn_pit_lane() {
    learn(tr("pit lane from an out lap"),
          [](Library& library, TrackId id, Track track, const JobContext& job) -> Result<Track> {
              const auto rows = library.runs();
              if (!rows) return pass_on(rows.error());
              for (const RunRow& row : *rows) {
                  if (row.track != id || job.stopped()) continue;
                  const auto run = load_run(library, row.id);
                  if (!run || (*run)->path == nullptr || (*run)->path->by_shape) continue;
                  for (const Lap& lap : (*run)->laps) {
                      if (lap.kind != LapKind::out && lap.kind != LapKind::in) continue;
                      auto lane = pit_lane_from(*(*run)->path, track, {lap.start_s, lap.end_s});
                      if (!lane.empty()) return set_pit_lane(std::move(track), std::move(lane));
                  }
              }
              return fail(ErrorCode::not_found, "No out or in lap leaves the track for a pit lane.");
          });
}

}  // namespace rendak::app
