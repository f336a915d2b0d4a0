#include "app/desks/video/video_desk.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QGridLayout>
#include <QJsonDocument>
#include <QJsonObject>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QStackedLayout>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/desks/video/moment_strip.h"
#include "app/jobs/wait_until.h"
#include "app/text/elided_label.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr const char* style_setting = "film_figures";

}  // namespace

VideoDesk::VideoDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent),
      replay_(workspace.focus(), workspace.comparison()),
      proposing_(workspace.jobs()),
      adding_(workspace.jobs()),
      clipping_(workspace.jobs()) {
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    connect(&workspace_.comparison(), &Comparison::changed, this, &VideoDesk::refresh);
    connect(&workspace_.focus(), &Focus::cursor_changed, this, &VideoDesk::show_moments);
    connect(&replay_, &Replay::changed, this, [this] {
        play_->setText(replay_.running() ? tr("Pause") : tr("Play"));
        show_moments();
    });
    connect(&speaker_, &FilmSpeaker::trouble_changed, this, &VideoDesk::tell);
    connect(workspace_.session().get(), &Session::changed, this, [this](Change change) {
        if (change == Change::marks || change == Change::recordings) refresh();
    });
    add_key(tr("Play the film, or pause"), {QKeySequence(Qt::Key_Space)},
            [this] { replay_.running() ? replay_.stop() : replay_.start(); });
    add_key(tr("A frame on"), {QKeySequence(Qt::Key_Period)}, [this] { step_frames(1); });
    add_key(tr("A frame back"), {QKeySequence(Qt::Key_Comma)}, [this] { step_frames(-1); });
    add_key(tr("Film over the whole screen"), {QKeySequence(Qt::Key_F11)},
            [this] { set_full_screen(full_ == nullptr); });
}

void VideoDesk::take_focus() {
    play_->setFocus();
}

QString VideoDesk::headline() const {
    return static_cast<ElidedLabel*>(headline_)->text();
}

QString VideoDesk::told() const {
    return static_cast<ElidedLabel*>(told_)->text();
}

std::vector<FilmTile*> VideoDesk::shown_tiles() const {
    std::vector<FilmTile*> out;
    for (FilmTile* tile : tiles_)
        if (tile->film()) out.push_back(tile);
    return out;
}

FilmTile* VideoDesk::chosen_tile() const {
    return chosen_;
}

bool VideoDesk::up_to_date() const {
    return std::all_of(tiles_.begin(), tiles_.end(), [](const FilmTile* it) { return it->up_to_date(); });
}

void VideoDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

void VideoDesk::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    if (full_ == nullptr) replay_.stop();
    hear();
}

void VideoDesk::refresh() {
    if (!isVisible() && full_ == nullptr) return;
    const auto laps = workspace_.comparison().shared_laps();
    known_ = laps->empty() ? std::vector<KeptFilm>() : workspace_.shown(kept_films(workspace_.library()));
    stack_->setCurrentIndex(laps->empty() || known_.empty() ? 1 : 0);
    if (laps->empty() || known_.empty()) {
        replay_.stop();
        set_full_screen(false);
        for (FilmTile* tile : tiles_) tile->set_film(std::nullopt);
        before_.clear();
        chosen_ = large_ = nullptr;
        empty_words_->setText(
            laps->empty() ? tr("No lap is picked. Pick a lap that was filmed, and one to see beside it.")
                          : tr("There are no films in this library. Add those of your cameras: they stay where they "
                               "are, or are copied; then put each in step with its run."));
        empty_go_->setText(laps->empty() ? tr("Pick laps in the Logbook") : tr("Add films …"));
        empty_go_->setVisible(laps->empty() || !workspace_.library().is_look_only());
        return;
    }
    // A and the active lap, or the next one; two cameras of each.
    std::vector<int> slots_shown{0};
    const int active = workspace_.comparison().active_slot();
    if (active != 0)
        slots_shown.push_back(active);
    else if (laps->laps.size() > 1)
        slots_shown.push_back(1);
    struct Wanted {
        int slot;
        const KeptFilm* film;
    };
    std::vector<Wanted> wanted;
    std::string made_of;
    for (const int slot : slots_shown) {
        const ComparedLap& it = laps->laps[static_cast<std::size_t>(slot)];
        std::vector<const KeptFilm*> of_lap = films_on_lap(known_, it);
        for (std::size_t k = 0; k < 2; ++k) {
            const auto wish = wishes_.find({slot, k});
            if (wish == wishes_.end()) continue;
            const auto film =
                std::find_if(known_.begin(), known_.end(), [&](const KeptFilm& f) { return f.id == wish->second; });
            if (film == known_.end()) continue;
            // One that is shown elsewhere changes places: no film is shown twice of one lap.
            const auto shown = std::find(of_lap.begin(), of_lap.end(), &*film);
            if (k >= of_lap.size()) {
                if (shown == of_lap.end()) of_lap.push_back(&*film);
            } else if (shown != of_lap.end()) {
                std::swap(of_lap[k], *shown);
            } else {
                of_lap[k] = &*film;
            }
        }
        of_lap.resize(std::min<std::size_t>(of_lap.size(), 2));
        // A run without a film in step shows one of its car, to be put in step.
        if (of_lap.empty()) {
            for (const KeptFilm& film : known_)
                if (of_lap.empty() && (film.car.empty() || film.car == it.run->row.car) && film.places.empty())
                    of_lap.push_back(&film);
        }
        for (const KeptFilm* film : of_lap) wanted.push_back({slot, film});
        made_of += std::to_string(slot) + ":" + std::to_string(it.run->row.id.value) + ":" +
                   std::to_string(it.lap.ref.lap) + " ";
    }
    for (const Wanted& it : wanted) {
        made_of += std::to_string(it.slot) + "=" + std::to_string(it.film->id);
        for (const std::string& file : film_files(workspace_.library(), *it.film)) made_of += " " + file;
    }
    if (made_of != before_) {
        before_ = made_of;
        set_full_screen(false);
        chosen_ = large_ = nullptr;
        marks_.clear();
        for (std::size_t k = 0; k < most_tiles; ++k) {
            if (k >= wanted.size()) {
                tiles_[k]->set_film(std::nullopt);
                continue;
            }
            const ComparedLap& it = laps->laps[static_cast<std::size_t>(wanted[k].slot)];
            const FilmPlace* place = wanted[k].film->place_on(it.run->row.id);
            tiles_[k]->set_film(FilmTile::Of{
                *wanted[k].film, place == nullptr ? std::nullopt : std::optional(*place),
                sources_.of(workspace_.library(), *wanted[k].film, static_cast<int>(k)),
                std::make_shared<FilmMoments>(it.run, it.lap, wanted[k].slot, &laps->baseline().lap), wanted[k].slot});
        }
        style_ = style_of_car();
        for (FilmTile* tile : tiles_) tile->set_style(style_);
        lay_out();
        choose_tile(wanted.empty() ? nullptr : tiles_[0]);
    } else {
        // The same films: only where they lie may be new.
        for (FilmTile* tile : shown_tiles()) {
            const RunId run = tile->film()->moments->lap().ref.run;
            for (const KeptFilm& film : known_) {
                if (film.id != tile->film()->film.id) continue;
                const FilmPlace* place = film.place_on(run);
                tile->set_place(place == nullptr ? std::nullopt : std::optional(*place));
            }
        }
    }
    clip_->setEnabled(chosen_ != nullptr && chosen_->film()->place.has_value());
    show_moments();
}

void VideoDesk::lay_out() {
    for (FilmTile* tile : tiles_) {
        grid_->removeWidget(tile);
        tile->hide();
    }
    for (int k = 0; k < 4; ++k) {
        grid_->setRowStretch(k, 0);
        grid_->setColumnStretch(k, 0);
    }
    const auto shown = shown_tiles();
    if (large_ != nullptr) {
        grid_->addWidget(large_, 0, 0, std::max(1, static_cast<int>(shown.size()) - 1), 1);
        int row = 0;
        for (FilmTile* tile : shown) {
            if (tile != large_) grid_->addWidget(tile, row++, 1);
            tile->show();
        }
        for (int k = 0; k < std::max(1, row); ++k) grid_->setRowStretch(k, 1);
        grid_->setColumnStretch(0, 4);
        grid_->setColumnStretch(1, row > 0 ? 1 : 0);
        return;
    }
    // A column a lap, the first camera of each above.
    int column = -1, row = 0, slot = -1;
    for (FilmTile* tile : shown) {
        if (tile->film()->slot != slot) {
            ++column;
            row = 0;
            slot = tile->film()->slot;
        }
        grid_->addWidget(tile, row, column);
        grid_->setColumnStretch(column, 1);
        grid_->setRowStretch(row, row == 0 ? 3 : 2);
        tile->show();
        ++row;
    }
}

void VideoDesk::enlarge(FilmTile* tile) {
    large_ = tile;
    lay_out();
}

void VideoDesk::set_full_screen(bool on) {
    if (on == (full_ != nullptr)) return;
    if (on) {
        if (chosen_ == nullptr) return;
        full_ = new QWidget(this, Qt::Window);
        full_->setWindowTitle(tr("Film"));
        full_->setAttribute(Qt::WA_DeleteOnClose);
        full_->installEventFilter(this);
        auto* column = new QVBoxLayout(full_);
        column->setContentsMargins(0, 0, 0, 0);
        column->addWidget(chosen_);
        chosen_->show();
        for (QAction* action : actions()) full_->addAction(action);
        full_->showFullScreen();
        return;
    }
    QWidget* gone = std::exchange(full_, nullptr);
    gone->removeEventFilter(this);
    if (chosen_ != nullptr) chosen_->setParent(tiles_holder_);
    lay_out();
    gone->close();
}

bool VideoDesk::eventFilter(QObject* watched, QEvent* event) {
    if (watched == full_ && event->type() == QEvent::KeyPress &&
        static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
        set_full_screen(false);
        return true;
    }
    if (watched == full_ && event->type() == QEvent::Close) {
        set_full_screen(false);
        return true;
    }
    return Desk::eventFilter(watched, event);
}

void VideoDesk::choose_tile(FilmTile* tile) {
    if (tile != nullptr && !tile->film()) return;
    if (chosen_ != nullptr && chosen_ != tile && chosen_->holds()) {
        chosen_->hold(false);
        mark_->setText(tr("Mark an event"));
    }
    chosen_ = tile;
    const bool several = shown_tiles().size() > 1;
    for (FilmTile* it : tiles_) it->set_active(several && it == tile);
    strip_->set_lap(tile == nullptr ? nullptr : tile->film()->moments->lap().recording);
    film_box_->clear();
    for (const KeptFilm& it : known_)
        film_box_->addItem(QString::fromStdString(it.title()), static_cast<qint64>(it.id));
    if (tile != nullptr) film_box_->setCurrentIndex(film_box_->findData(static_cast<qint64>(tile->film()->film.id)));
    show_moments();
}

void VideoDesk::choose_film(std::int64_t film) {
    if (chosen_ == nullptr || !chosen_->film()) return;
    const int slot = chosen_->film()->slot;
    std::size_t place = 0;
    for (FilmTile* it : shown_tiles()) {
        if (it == chosen_) break;
        if (it->film()->slot == slot) ++place;
    }
    wishes_[{slot, place}] = film;
    refresh();
}

void VideoDesk::show_moments() {
    if (!isVisible() && full_ == nullptr) return;
    const auto& laps = workspace_.comparison().laps().laps;
    for (FilmTile* tile : shown_tiles()) {
        if (static_cast<std::size_t>(tile->film()->slot) >= laps.size()) return;
        tile->show_moment(replay_.time_of(tile->film()->slot));
    }
    tell();
    hear();
}

std::optional<FilmSpeaker::Wish> VideoDesk::to_hear() const {
    if (!sound_->isChecked() || !replay_.running() || chosen_ == nullptr) return std::nullopt;
    return chosen_->sound(replay_.speed());
}

void VideoDesk::hear() {
    speaker_.follow(to_hear());
}

void VideoDesk::tell() {
    const auto shown = shown_tiles();
    for (QPushButton* it : nudges_) it->setEnabled(chosen_ != nullptr && !workspace_.library().is_look_only());
    for (QPushButton* it : {propose_, mark_, clocks_})
        it->setEnabled(chosen_ != nullptr && !workspace_.library().is_look_only());
    if (shown.empty()) {
        headline_->setText(tr("No film lies on these laps."));
        told_->setText({});
        return;
    }
    QStringList names;
    int last = -1;
    for (const FilmTile* tile : shown) {
        if (tile->film()->slot == std::exchange(last, tile->film()->slot)) continue;
        const ComparedLap& it = workspace_.comparison().laps().laps[static_cast<std::size_t>(tile->film()->slot)];
        names << slot_letter(tile->film()->slot) + u' ' + QString::fromStdString(it.run->row.name) +
                     tr(", lap %1").arg(it.lap.ref.lap);
    }
    headline_->setText(names.join(tr(" and ")) + (names.size() < 2    ? QString()
                                                  : replay_.by_time() ? tr(", after the same time")
                                                                      : tr(", at the same place")));
    if (chosen_ == nullptr) return;
    const FilmTile::Of& of = *chosen_->film();
    // The strip is where the picture says that it is.
    strip_->show_moment(of.place ? of.place->at.run_s(chosen_->film_s()) : replay_.time_of(of.slot));
    QStringList words{tr("%1 × %2, %3 frames a second")
                          .arg(of.film.width)
                          .arg(of.film.height)
                          .arg(of.film.frames_per_s, 0, 'f',
                               std::abs(of.film.frames_per_s - std::round(of.film.frames_per_s)) < 0.005 ? 0 : 2)};
    if (of.place) {
        const QString how = QString::fromStdString(of.place->how);
        words << (how.startsWith(QStringLiteral("by ")) ? tr("in step %1").arg(how)
                                                        : tr("in step, told by %1").arg(how));
        words
            << tr("begins at %1 s of the run").arg(QString::number(of.place->at.offset_s, 'f', 3).replace(u'-', u'−'));
        if (std::abs(of.place->at.rate - 1) > 1e-7)
            words << tr("its clock runs %1 ppm off").arg(signed_number(1e6 * (1 / of.place->at.rate - 1), 0));
    } else {
        words << tr("not in step yet: propose, mark an event, or move the data");
    }
    if (!speaker_.trouble().isEmpty()) words << speaker_.trouble();
    told_->setText(words.join(QStringLiteral(" · ")));
}

void VideoDesk::step_frames(int by) {
    if (chosen_ == nullptr || !chosen_->film() || !chosen_->film()->place || !chosen_->wanted_frame()) return;
    const FilmTile::Of& of = *chosen_->film();
    const auto frame = static_cast<std::ptrdiff_t>(*chosen_->wanted_frame()) + by;
    if (frame < 0 || frame >= static_cast<std::ptrdiff_t>(of.source->frames())) return;
    const double run_s = of.place->at.run_s(of.source->time_of(static_cast<std::size_t>(frame)) + 1e-4);
    const PreparedLap& lap = of.moments->lap();
    if (lap.track == nullptr)
        workspace_.comparison().set_cursor_in_view(workspace_.comparison().cursor_in_view() + run_s -
                                                   replay_.time_of(of.slot));
    else if (run_s >= lap.map.start_s() && run_s <= lap.map.end_s())
        workspace_.focus().set_cursor(lap.map.distance_at(run_s));
}

FilmStyle VideoDesk::style_of_car() const {
    const auto shown = shown_tiles();
    const auto text = workspace_.library().setting(style_setting);
    if (shown.empty() || !text) return usual_film_style();
    const QJsonObject all = QJsonDocument::fromJson(QByteArray::fromStdString(*text)).object();
    return film_style_from(all[QString::fromStdString(shown.front()->film()->film.car)].toString());
}

void VideoDesk::set_style(const FilmStyle& style) {
    style_ = style;
    for (FilmTile* tile : tiles_) tile->set_style(style_);
    const auto shown = shown_tiles();
    if (shown.empty() || workspace_.library().is_look_only()) return;
    const auto text = workspace_.library().setting(style_setting);
    QJsonObject all = text ? QJsonDocument::fromJson(QByteArray::fromStdString(*text)).object() : QJsonObject();
    all[QString::fromStdString(shown.front()->film()->film.car)] = to_text(style);
    const auto done = workspace_.library().set_setting(style_setting,
                                                       QJsonDocument(all).toJson(QJsonDocument::Compact).toStdString());
    if (!done) workspace_.tell(done.error());
}

QString VideoDesk::state() const {
    QJsonObject out;
    out[QLatin1String("by_time")] = replay_.by_time();
    out[QLatin1String("silent")] = !sound_->isChecked();
    return QString::fromUtf8(QJsonDocument(out).toJson(QJsonDocument::Compact));
}

void VideoDesk::restore(const QString& state) {
    const QJsonObject in = QJsonDocument::fromJson(state.toUtf8()).object();
    replay_.set_by_time(in[QLatin1String("by_time")].toBool());
    lock_->setCurrentIndex(replay_.by_time() ? 1 : 0);
    sound_->setChecked(!in[QLatin1String("silent")].toBool());
}

void VideoDesk::show_pictures(PictureBook& book) {
    const auto frames = [this] { (void)wait_until([this] { return up_to_date(); }, 20); };
    book.settle();
    if (!workspace_.comparison().laps().empty() && workspace_.comparison().laps().on_track() &&
        workspace_.comparison().laps().track().corners.size() > 4)
        workspace_.focus().set_cursor(workspace_.comparison().laps().track().corners[4].start_m - 60);
    frames();
    book.take(QStringLiteral("video"));
    book.take_garage(QStringLiteral("video-garage"));
}

}  // namespace rendak::app
