#include "app/film/films_beside.h"

#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/elided_label.h"

namespace rendak::app {

FilmsBeside::FilmsBeside(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    sound_ = new QPushButton(tr("Sound"), this);
    sound_->setObjectName(QStringLiteral("film-sound"));
    sound_->setToolTip(tr("The sound of the film that was clicked last, while it plays"));
    sound_->setCheckable(true);
    sound_->setChecked(true);
    sound_->setFocusPolicy(Qt::TabFocus);
    sound_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    trouble_ = new ElidedLabel(QString(), this);
    connect(sound_, &QPushButton::toggled, this, [this] {
        speaker_.follow(to_hear());
        Q_EMIT silence_changed();
    });
    connect(&speaker_, &FilmSpeaker::trouble_changed, this, [this] { trouble_->setText(speaker_.trouble()); });
    for (std::size_t k = 0; k < tiles_.size(); ++k) {
        FilmTile*& tile = tiles_[k];
        tile = new FilmTile;
        connect(tile, &FilmTile::chosen, this, [this, k] { choose(k); });
        tile->setToolTip(tr("Double-click for the desk Video"));
        connect(tile, &FilmTile::enlarged, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("video")); });
        column->addWidget(tile, 1);
    }
    connect(&workspace_.comparison(), &Comparison::changed, this, &FilmsBeside::refresh);
    connect(&workspace_.focus(), &Focus::cursor_changed, this, &FilmsBeside::show_moments);
    connect(workspace_.session().get(), &Session::changed, this, [this](Change change) {
        if (change == Change::marks || change == Change::recordings) refresh();
    });
}

void FilmsBeside::follow(const Replay& replay) {
    replay_ = &replay;
    connect(&replay, &Replay::changed, this, &FilmsBeside::show_moments);
}

void FilmsBeside::choose(std::size_t which) {
    heard_ = which;
    mark_heard();
    speaker_.follow(to_hear());
}

QList<QWidget*> FilmsBeside::tools() const {
    return {sound_, trouble_};
}

bool FilmsBeside::is_silent() const {
    return !sound_->isChecked();
}

void FilmsBeside::set_silent(bool on) {
    sound_->setChecked(!on);
}

std::optional<FilmSpeaker::Wish> FilmsBeside::to_hear() const {
    if (!isVisible() || is_silent() || replay_ == nullptr || !replay_->running()) return std::nullopt;
    return tiles_[heard_]->sound(replay_->speed());
}

void FilmsBeside::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    speaker_.follow(std::nullopt);
}

void FilmsBeside::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

void FilmsBeside::refresh() {
    if (!isVisible()) return;
    const auto laps = workspace_.comparison().shared_laps();
    const auto known = laps->empty() ? std::vector<KeptFilm>() : workspace_.shown(kept_films(workspace_.library()));
    std::vector<int> shown;
    if (!laps->empty()) shown.push_back(0);
    if (laps->laps.size() > 1) shown.push_back(std::max(1, workspace_.comparison().active_slot()));
    for (std::size_t k = 0; k < tiles_.size(); ++k) {
        tiles_[k]->setVisible(k == 0 || k < shown.size());
        if (k >= shown.size()) {
            tiles_[k]->set_film(std::nullopt);
            continue;
        }
        const ComparedLap& it = laps->laps[static_cast<std::size_t>(shown[k])];
        const auto films = films_on_lap(known, it);
        if (films.empty()) {
            tiles_[k]->set_film(std::nullopt);
            continue;
        }
        const FilmPlace* place = films.front()->place_on(it.run->row.id);
        const auto& now = tiles_[k]->film();
        // The same film of the same lap goes on; only where it lies may be new.
        if (now && now->film.id == films.front()->id && now->moments->lap().ref == it.lap.ref &&
            now->slot == shown[k]) {
            tiles_[k]->set_place(*place);
            continue;
        }
        tiles_[k]->set_film(
            FilmTile::Of{*films.front(), *place, sources_.of(workspace_.library(), *films.front(), shown[k]),
                         std::make_shared<FilmMoments>(it.run, it.lap, shown[k], &laps->baseline().lap), shown[k]});
    }
    mark_heard();
    show_moments();
}

void FilmsBeside::mark_heard() {
    if (!tiles_[heard_]->film()) heard_ = 0;
    for (std::size_t k = 0; k < tiles_.size(); ++k)
        tiles_[k]->set_active(k == heard_ && tiles_[0]->film() && tiles_[1]->film());
}

void FilmsBeside::show_moments() {
    if (!isVisible()) return;
    for (FilmTile* tile : tiles_)
        if (tile->film()) {
            const int slot = tile->film()->slot;
            tile->show_moment(replay_ == nullptr ? workspace_.comparison().cursor_time_s(slot)
                                                 : replay_->time_of(slot));
        }
    speaker_.follow(to_hear());
}

bool FilmsBeside::up_to_date() const {
    return tiles_[0]->up_to_date() && tiles_[1]->up_to_date();
}

QString FilmsBeside::data_text() const {
    QString out = QStringLiteral("film\tframe\n");
    for (const FilmTile* tile : tiles_) {
        out += tile->film() ? QString::fromStdString(tile->film()->film.title()) : QString();
        out += u'\t' + (tile->wanted_frame() ? QString::number(*tile->wanted_frame()) : tile->message()) + u'\n';
    }
    return out;
}

}  // namespace rendak::app
