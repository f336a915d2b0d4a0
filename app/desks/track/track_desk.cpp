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
namespace {

QTableWidgetItem* cell(const QString& text, bool editable = false) {
    auto* item = new QTableWidgetItem(text);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | (editable ? Qt::ItemIsEditable : Qt::NoItemFlags));
    return item;
}

}  // namespace

TrackDesk::TrackDesk(Workspace& workspace, QWidget* parent) : Desk(workspace, parent), previewing_(workspace.jobs()) {
    ask_to_replace = [this](const QString& known) {
        QMessageBox ask(QMessageBox::Question, tr("Take in a track"), QString(), QMessageBox::Cancel, this);
        ask.setTextFormat(Qt::PlainText);
        ask.setText(
            tr("%1 is in the library already. Shall the file take its place? All its runs are cut again; Ctrl+Z "
               "brings the one that is here back.")
                .arg(known));
        const auto* replace = ask.addButton(tr("Replace"), QMessageBox::AcceptRole);
        ask.exec();
        return ask.clickedButton() == replace;
    };
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    connect(&workspace_, &Workspace::runs_changed, this, &TrackDesk::refresh);
    connect(&workspace_.comparison(), &Comparison::changed, this, [this] {
        // The desk opens on the track of the picked laps.
        const ComparedLaps& laps = workspace_.comparison().laps();
        if (laps.on_track() && !isVisible()) show_track(laps.baseline().run->row.track);
    });
    // One cursor for all desks.
    connect(&workspace_.focus(), &Focus::cursor_changed, this, [this] {
        const ComparedLaps& laps = workspace_.comparison().laps();
        if (laps.on_track() && laps.baseline().run->row.track == id_) show_place(workspace_.focus().state().cursor_m);
    });
    refresh();
}
void TrackDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_)
        refresh();
    else
        preview_start();
}

void TrackDesk::take_focus() {
    corners_->setFocus();
}

QString TrackDesk::summary() const {
    return summary_->text();
}

QString TrackDesk::hint() const {
    return hint_->text();
}

void TrackDesk::list_tracks() {
    filling_ = true;
    tracks_->clear();
    int chosen = -1;
    for (const TrackRow& row : workspace_.shown(workspace_.library().tracks())) {
        if (row.id == id_) chosen = tracks_->count();
        tracks_->addItem(QString::fromStdString(row.name), QVariant::fromValue(static_cast<qlonglong>(row.id.value)));
    }
    if (chosen < 0 && tracks_->count() > 0) {
        // The track that most runs were driven on.
        std::map<std::int64_t, int> runs;
        for (const RunRow& run : workspace_.shown(workspace_.library().runs())) ++runs[run.track.value];
        chosen = 0;
        for (int i = 1; i < tracks_->count(); ++i) {
            if (runs[tracks_->itemData(i).toLongLong()] > runs[tracks_->itemData(chosen).toLongLong()]) chosen = i;
        }
        id_ = TrackId{tracks_->itemData(chosen).toLongLong()};
    }
    tracks_->setCurrentIndex(chosen);
    filling_ = false;
}

void TrackDesk::refresh() {
    stale_ = !isVisible();
    if (stale_) return;
    list_tracks();
    stack_->setCurrentIndex(tracks_->count() == 0 ? 1 : 0);
    track_.reset();
    if (tracks_->count() > 0) {
        auto read = read_track(workspace_.library(), id_);
        if (!read)
            workspace_.tell(read.error());
        else
            track_ = std::make_shared<const Track>(std::move(*read));
    }
    if (track_ != nullptr) {
        if (selected_ >= static_cast<int>(track_->corners.size())) selected_ = -1;
        place_m_ = std::clamp(place_m_, 0.0, track_->length_m);
        QStringList parts{distance_text(track_->length_m),
                          counted(static_cast<qsizetype>(track_->corners.size()), tr("corner"), tr("corners"))};
        if (!track_->sector_lines_m.empty())
            parts << counted(static_cast<qsizetype>(track_->sector_lines_m.size()) + 1, tr("sector"), tr("sectors"));
        if (track_->open) parts << tr("from start to finish");
        if (track_->shape_only) parts << tr("shape only");
        parts << (track_->edges.source == Edges::Source::none     ? tr("edges not known")
                  : track_->edges.source == Edges::Source::driven ? tr("edges from slow laps")
                                                                  : tr("edges from the spread of laps"));
        if (!track_->height.value.empty()) {
            const auto [low, high] = std::minmax_element(track_->height.value.begin(), track_->height.value.end());
            parts << tr("%1 of height").arg(distance_text(*high - *low));
        }
        summary_->setText(parts.join(QStringLiteral(" · ")));
        finish_button_->setEnabled(track_->open);
        start_button_->setEnabled(!track_->open);
        turn_button_->setEnabled(!track_->open);
    }
    map_->set_track(track_);
    strip_->set_track(track_);
    fill_table();
    select_corner(selected_);
    preview_start();
}

void TrackDesk::fill_table() {
    filling_ = true;
    corners_->horizontalHeaderItem(radius)->setText(tr("Rad. %1").arg(distance_shown().unit));
    corners_->setRowCount(track_ == nullptr ? 0 : static_cast<int>(track_->corners.size()));
    for (int row = 0; row < corners_->rowCount(); ++row) {
        const Corner& it = track_->corners[static_cast<std::size_t>(row)];
        const double left = track_->value_at(track_->banking.value, it.apex_m),
                     sd = track_->value_at(track_->banking.sd, it.apex_m);
        const auto put = [&](int at, QTableWidgetItem* item) {
            if (at != name && at != hand) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            corners_->setItem(row, at, item);
        };
        put(number, cell(QString::number(it.number)));
        put(name, cell(QString::fromStdString(it.name), true));
        put(hand, cell(it.left ? tr("left") : tr("right")));
        put(start, cell(distance_shown().text(it.start_m)));
        put(apex, cell(distance_shown().text(it.apex_m)));
        put(end, cell(distance_shown().text(it.end_m)));
        put(radius, cell(distance_shown().text(it.radius_m)));
        put(angle, cell(tr("%1°").arg(it.angle_deg, 0, 'f', 0)));
        const double helps = (it.left ? -1 : 1) * left * 57.29577951;
        auto* banked = cell(std::isfinite(helps)
                                ? signed_number(helps, 0) + QStringLiteral("±%1").arg(2 * sd * 57.29577951, 0, 'f', 0)
                                : QStringLiteral("–"));
        if (std::isfinite(helps))
            banked->setToolTip(tr("Banking at the apex %1° ± %2°; positive helps. Told from lateral g against v²κ.")
                                   .arg(signed_number(helps, 1))
                                   .arg(2 * sd * 57.29577951, 0, 'f', 1));
        put(bank, banked);
    }
    // Five digits in feet.
    for (const int at : {int(start), int(apex), int(end)}) corners_->resizeColumnToContents(at);
    filling_ = false;
}

void TrackDesk::show_track(TrackId id) {
    if (!id || id == id_) return;
    id_ = id;
    selected_ = -1;
    show_place(0);
    refresh();
}

void TrackDesk::select_corner(int corner) {
    selected_ = corner;
    map_->set_selected(corner);
    strip_->set_selected(corner);
    filling_ = true;
    if (corner >= 0)
        corners_->selectRow(corner);
    else
        corners_->clearSelection();
    filling_ = false;
    for (QPushButton* it : corner_buttons_) it->setEnabled(corner >= 0);
}

void TrackDesk::set_place(double distance_m) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (laps.on_track() && laps.baseline().run->row.track == id_) workspace_.focus().set_cursor(distance_m);
    show_place(distance_m);
}

void TrackDesk::show_place(double distance_m) {
    place_m_ = distance_m;
    map_->set_place(distance_m);
    strip_->set_place(distance_m);
    set_range({});
    // Working out what a line here would cut takes some ten milliseconds: not while another desk moves the cursor.
    if (isVisible()) preview_start();
}

void TrackDesk::set_range(Interval range_m) {
    range_m_ = range_m;
    strip_->set_range(range_m);
    if (!range_m.empty()) hint_->setText(tr("Chosen: %1. \"Add\" makes it a corner.").arg(stretch_text(range_m)));
}

void TrackDesk::preview_start() {
    previewing_.drop();
    if (track_ == nullptr) return;
    QString text =
        tr("Place: %1. Drag the limits of the chosen corner on the strip; drag over free road to choose a stretch.")
            .arg(distance_text(place_m_));
    hint_->setText(text);
    // What a line here would make of the picked run.
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (track_->open || place_m_ <= 1 || !laps.on_track() || laps.baseline().run->row.track != id_ ||
        laps.baseline().run->path == nullptr)
        return;
    previewing_.run<std::vector<Lap>>(
        tr("Cutting laps at %1").arg(distance_text(place_m_)),
        [track = track_, run = laps.baseline().run, at = place_m_](const JobContext&) -> Result<std::vector<Lap>> {
            const auto moved = move_start(*track, at);
            if (!moved) return pass_on(moved.error());
            return cut_laps(*run->path, *moved);
        },
        [this, name = QString::fromStdString(laps.baseline().run->row.name),
         at = place_m_](const Result<std::vector<Lap>>& cut) {
            const Lap* best = cut ? best_lap(*cut) : nullptr;
            if (best == nullptr) return;
            const auto flying =
                std::count_if(cut->begin(), cut->end(), [](const Lap& lap) { return lap.kind == LapKind::flying; });
            hint_->setText(tr("A start line at %1 would cut %2 into %3, best %4.")
                               .arg(distance_text(at), name, counted(flying, tr("flying lap"), tr("flying laps")),
                                    lap_time(best->time_s())));
        });
}

void TrackDesk::store(const QString& text, const Result<Track>& edited, bool recut, double start_moved_m) {
    if (!edited) {
        workspace_.tell(edited.error());
        fill_table();
        return;
    }
    const auto before = track_state(workspace_.library(), id_);
    if (!before) return workspace_.tell(before.error());
    store_state(text, id_, edited_state(*before, *edited, start_moved_m), recut);
}

void TrackDesk::store_state(const QString& text, TrackId id, const TrackState& after, bool recut) {
    const auto before = track_state(workspace_.library(), id);
    if (!before) return workspace_.tell(before.error());
    const auto put = [id, recut](const TrackState& state) {
        return [id, recut, state](Library& library, const JobContext& job) {
            return put_track_state(library, id, state, recut, job);
        };
    };
    if (recut) return workspace_.edit_in_background(text, put(after), put(*before));
    workspace_.edit(
        text, [this, act = put(after)] { return act(workspace_.library(), {}); },
        [this, act = put(*before)] { return act(workspace_.library(), {}); });
}
void TrackDesk::add_corner_here() {
    if (track_ == nullptr) return;
    const Interval range = range_m_.empty() ? Interval{place_m_ - 30, place_m_ + 30} : range_m_;
    store(tr("add a corner"), add_corner(*track_, range));
}

void TrackDesk::delete_selected() {
    if (selected_ >= 0) store(tr("delete a corner"), delete_corner(*track_, static_cast<std::size_t>(selected_)));
}

void TrackDesk::join_selected() {
    if (selected_ >= 0) store(tr("join corners"), join_corners(*track_, static_cast<std::size_t>(selected_)));
}

void TrackDesk::number_selected(int wanted) {
    if (selected_ >= 0)
        store(tr("number corners"), renumber_from(*track_, static_cast<std::size_t>(selected_), wanted));
}

void TrackDesk::ask_number() {
    if (selected_ < 0) return;
    bool fine = false;
    const int now = track_->corners[static_cast<std::size_t>(selected_)].number;
    const int wanted = QInputDialog::getInt(this, tr("Number of the corner"),
                                            tr("Those behind it count on from there:"), now, 1, 999, 1, &fine);
    if (fine) number_selected(wanted);
}

void TrackDesk::restore_found() {
    if (track_ != nullptr) store(tr("corners as found"), with_found_corners(*track_));
}

void TrackDesk::add_sector_line() {
    if (track_ == nullptr) return;
    auto lines = track_->sector_lines_m;
    lines.push_back(place_m_);
    store(tr("add a sector line"), set_sector_lines(*track_, std::move(lines)));
}

void TrackDesk::remove_sector_line() {
    if (track_ == nullptr || track_->sector_lines_m.empty())
        return workspace_.tell(tr("There is no sector line to remove."));
    auto lines = track_->sector_lines_m;
    const auto nearest = std::min_element(lines.begin(), lines.end(), [this](double a, double b) {
        return std::abs(a - place_m_) < std::abs(b - place_m_);
    });
    lines.erase(nearest);
    store(tr("remove a sector line"), set_sector_lines(*track_, std::move(lines)));
}

void TrackDesk::start_here() {
    if (track_ == nullptr || place_m_ < 0.5) return workspace_.tell(tr("The start line lies here already."));
    const double moved = place_m_;
    place_m_ = 0;
    store(tr("move the start line"), move_start(*track_, moved), true, moved);
    set_place(0);
}

void TrackDesk::start_at(const StartLine& line) {
    if (track_ == nullptr) return;
    store(tr("move the start line"), place_start(*track_, line), true, start_distance(*track_, line));
}

void TrackDesk::ask_start_by_place() {
    if (track_ == nullptr) return;
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Start line by coordinates"));
    auto* form = new QFormLayout(&dialog);
    const GeoPoint now = LocalPlane(track_->origin).to_geo(track_->start.position);
    const auto number_box = [&](const QString& label, double limit, int decimals, double value) {
        auto* box = new QDoubleSpinBox;
        box->setRange(-limit, limit);
        box->setDecimals(decimals);
        box->setSuffix(QStringLiteral(" °"));
        box->setValue(value);
        form->addRow(label, box);
        return box;
    };
    const auto* latitude = number_box(tr("Latitude"), 90, 7, now.latitude_deg);
    const auto* longitude = number_box(tr("Longitude"), 360, 7, now.longitude_deg);
    const auto* heading = number_box(tr("Heading of travel (0 = north, 90 = east)"), 360, 1,
                                     heading_from_direction(track_->start.direction));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    form->addRow(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    start_at(start_line_at(track_->origin, {latitude->value(), longitude->value()}, heading->value()));
}

void TrackDesk::finish_here() {
    if (track_ != nullptr) store(tr("move the finish line"), finish_at(*track_, place_m_), true);
}

void TrackDesk::turn_round() {
    if (track_ == nullptr) return;
    const auto before = track_state(workspace_.library(), id_);
    if (!before) return workspace_.tell(before.error());
    store_state(tr("turn the track round"), id_, reversed_state(*before, reversed(*track_)), true);
}
void TrackDesk::rename() {
    if (track_ == nullptr) return;
    bool fine = false;
    const QString before = QString::fromStdString(track_->name);
    const QString wanted =
        QInputDialog::getText(this, tr("Rename the track"), tr("Name"), QLineEdit::Normal, before, &fine).trimmed();
    if (!fine || wanted.isEmpty() || wanted == before) return;
    workspace_.edit(
        tr("rename %1").arg(before),
        [this, id = id_, wanted] { return workspace_.library().rename_track(id, wanted.toStdString()); },
        [this, id = id_, before] { return workspace_.library().rename_track(id, before.toStdString()); });
}

void TrackDesk::remove() {
    if (track_ == nullptr) return;
    const auto before = track_state(workspace_.library(), id_);
    if (!before) return workspace_.tell(before.error());
    auto id = std::make_shared<TrackId>(id_);
    workspace_.edit(
        tr("remove %1").arg(QString::fromStdString(track_->name)),
        [this, id] { return workspace_.library().remove_track(*id); },
        [this, id, state = *before, name = track_->name, length_m = track_->length_m]() -> Result<void> {
            const auto put = workspace_.library().put_track(name, length_m, state.geojson);
            if (!put) return pass_on(put.error());
            *id = *put;
            for (const Mark& mark : state.marks) {
                if (const auto added = workspace_.library().add_mark(*put, mark.name, mark.range_m); !added)
                    return pass_on(added.error());
            }
            return {};
        });
}

void TrackDesk::import_file(const QString& file) {
    const auto text = read_text_file(file.toStdString());
    if (!text) return workspace_.tell(text.error());
    const auto track = track_from_geojson(*text, file.toStdString());
    if (!track) return workspace_.tell(track.error());
    if (const auto known = workspace_.shown(workspace_.library().find_track(track->name))) {
        // Only when it is wanted: somebody has learnt or edited the one that is here.
        if (!ask_to_replace(QString::fromStdString(track->name))) return;
        id_ = *known;
        refresh();
        const auto before = track_state(workspace_.library(), id_);
        if (!before) return workspace_.tell(before.error());
        return store_state(tr("take in %1").arg(file), id_, {*text, before->marks}, true);
    }
    workspace_.jobs().run<LearnResult>(
        tr("Cutting laps at %1").arg(QString::fromStdString(track->name)),
        [folder = workspace_.library().folder(), track = *track](const JobContext& job) -> Result<LearnResult> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return file_track(**library, track, {}, job);
        },
        [this](Result<LearnResult> filed) {
            if (!filed) return workspace_.tell(filed.error());
            id_ = filed->track;
            workspace_.library_changed();
            workspace_.tell(
                tr("The track is in; %1 cut at it.")
                    .arg(counted(static_cast<qsizetype>(filed->runs_cut.size()), tr("run was"), tr("runs were"))));
        });
}

Result<void> TrackDesk::export_file(const QString& file) const {
    const auto state = track_state(workspace_.library(), id_);
    if (!state) return pass_on(state.error());
    return write_file(file.toStdString(), state->geojson);
}

void TrackDesk::show_pictures(PictureBook& book) {
    select_corner(4);
    book.take(QStringLiteral("track"));
}

}  // namespace rendak::app
