// How the Video desk is put together.
#include <QComboBox>
#include <QCoreApplication>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/desks/video/clip_dialog.h"
#include "app/desks/video/moment_strip.h"
#include "app/desks/video/video_desk.h"
#include "app/film/add_films.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/theme/theme.h"

namespace rendak::app {

QWidget* VideoDesk::build_tools(QWidget* parent) {
    auto* holder = new QWidget(parent);
    auto* row = new QHBoxLayout(holder);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(5);
    const auto button = [&](const char* name, const QString& text, const QString& tip) {
        auto* out = new QPushButton(text);
        out->setObjectName(QLatin1String(name));
        out->setToolTip(tip);
        row->addWidget(out);
        return out;
    };
    play_ = button("video-play", tr("Play"), tr("Plays the range, again and again (Space)"));
    connect(play_, &QPushButton::clicked, this, [this] { replay_.running() ? replay_.stop() : replay_.start(); });
    speed_ = new QComboBox;
    speed_->setObjectName(QStringLiteral("video-speed"));
    speed_->setAccessibleName(tr("How fast"));
    for (const double times : {0.1, 0.25, 0.5, 1.0, 2.0, 4.0}) speed_->addItem(QStringLiteral("%1×").arg(times), times);
    speed_->setCurrentIndex(3);
    connect(speed_, &QComboBox::activated, this, [this] { replay_.set_speed(speed_->currentData().toDouble()); });
    row->addWidget(speed_);
    lock_ = new QComboBox;
    lock_->setObjectName(QStringLiteral("video-lock"));
    lock_->setAccessibleName(tr("What both pictures have in common"));
    lock_->addItems({tr("at the same place"), tr("after the same time")});
    connect(lock_, &QComboBox::activated, this, [this](int index) {
        replay_.set_by_time(index == 1);
        Q_EMIT state_changed();
    });
    row->addWidget(lock_);
    sound_ = button("video-sound", tr("Sound"), tr("The sound of the chosen film, while it plays"));
    sound_->setCheckable(true);
    sound_->setChecked(true);
    connect(sound_, &QPushButton::toggled, this, [this] {
        hear();
        Q_EMIT state_changed();
    });
    row->addStretch(1);
    figures_ = button("video-figures", tr("Figures"),
                      tr("What stands over the picture, where and how large; kept for this car"));
    films_ = button("video-films", tr("Films"), tr("Add, find and take out films"));
    clip_ = button("video-clip", tr("Write a clip …"),
                   tr("A film of this lap or range with the figures in it, which plays anywhere"));
    connect(clip_, &QPushButton::clicked, this, &VideoDesk::ask_clip);
    build_menus();
    return holder;
}

void VideoDesk::build_menus() {
    figures_menu_ = new QMenu(this);
    figures_->setMenu(figures_menu_);
    connect(figures_menu_, &QMenu::aboutToShow, this, [this] {
        figures_menu_->clear();
        for (const FilmFigureRow& it : film_figure_rows()) {
            QAction* action = figures_menu_->addAction(QCoreApplication::translate("Film", it.title));
            action->setCheckable(true);
            action->setChecked(style_.has(it.figure));
            connect(action, &QAction::toggled, this, [this, figure = it.figure](bool on) {
                FilmStyle style = style_;
                std::erase(style.figures, figure);
                if (on) style.figures.push_back(figure);
                set_style(style);
            });
        }
        figures_menu_->addSeparator();
        QAction* top = figures_menu_->addAction(tr("Along the upper edge"));
        top->setCheckable(true);
        top->setChecked(style_.on_top);
        connect(top, &QAction::toggled, this, [this](bool on) {
            FilmStyle style = style_;
            style.on_top = on;
            set_style(style);
        });
        figures_menu_
            ->addAction(tr("Put moved ones back"), this,
                        [this] {
                            FilmStyle style = style_;
                            style.moved.clear();
                            set_style(style);
                        })
            ->setEnabled(!style_.moved.empty());
        for (const auto& [label, size] : {std::pair{tr("Small"), 0.7}, {tr("Medium"), 1.0}, {tr("Large"), 1.4}}) {
            QAction* action = figures_menu_->addAction(label);
            action->setCheckable(true);
            action->setChecked(std::abs(style_.size - size) < 0.01);
            connect(action, &QAction::triggered, this, [this, size = size] {
                FilmStyle style = style_;
                style.size = size;
                set_style(style);
            });
        }
    });
    films_menu_ = new QMenu(this);
    films_->setMenu(films_menu_);
    connect(films_menu_, &QMenu::aboutToShow, this, &VideoDesk::fill_films_menu);
}

void VideoDesk::fill_films_menu() {
    films_menu_->clear();
    const bool writes = !workspace_.library().is_look_only();
    films_menu_->addAction(tr("Add films …"), this, &VideoDesk::ask_files)->setEnabled(writes);
    films_menu_
        ->addAction(tr("Add all of a folder …"), this,
                    [this] {
                        const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder with films"));
                        if (folder.isEmpty()) return;
                        if (const auto camera = ask_camera(this)) add_folder(folder.toStdString(), *camera);
                    })
        ->setEnabled(writes);
    films_menu_
        ->addAction(tr("Find films that have moved …"), this,
                    [this] {
                        const QString folder = QFileDialog::getExistingDirectory(this, tr("Where they may be"));
                        if (!folder.isEmpty()) find_moved(folder.toStdString());
                    })
        ->setEnabled(writes);
    films_menu_->addSeparator();
    films_menu_->addAction(tr("Full screen"), QKeySequence(Qt::Key_F11), this,
                           [this] { set_full_screen(full_ == nullptr); });
    if (chosen_ == nullptr || !chosen_->film()) return;
    films_menu_
        ->addAction(
            tr("Put %1 in step by the camera's own log …").arg(QString::fromStdString(chosen_->film()->film.title())),
            this,
            [this] {
                const QString file = QFileDialog::getOpenFileName(this, tr("What the camera's own receiver recorded"));
                if (!file.isEmpty()) propose_by_log(file.toStdString());
            })
        ->setEnabled(writes);
    films_menu_
        ->addAction(
            tr("Take %1 out of the library").arg(QString::fromStdString(chosen_->film()->film.title())), this,
            [this, film = chosen_->film()->film] {
                const bool copied =
                    std::any_of(film.files.begin(), film.files.end(), [](const FilmFile& it) { return it.kept; });
                const QString what = copied ? tr("Its copy in the library is removed for good. This cannot be undone.")
                                            : tr("The file itself stays where it is.");
                if (QMessageBox::question(this, tr("Take the film out of the library?"), what) == QMessageBox::Yes)
                    take_out(film.id);
            })
        ->setEnabled(writes);
}

void VideoDesk::ask_files() {
    const QStringList files = QFileDialog::getOpenFileNames(
        this, tr("Films of one camera, in their order"), QString(),
        tr("Films (*.mp4 *.MP4 *.mov *.MOV *.mkv *.MKV *.avi *.AVI *.m4v *.mts *.MTS *.webm);;All files (*)"));
    if (files.isEmpty()) return;
    const auto camera = ask_camera(this);
    if (!camera) return;
    const auto keep = ask_to_keep(this, tr("Copy the films into the library's folder? They are large. Else the library "
                                           "remembers where they are, and they must stay there."));
    if (!keep) return;
    std::vector<std::filesystem::path> paths;
    for (const QString& it : files) paths.emplace_back(it.toStdString());
    add_films({paths}, *camera, *keep);
}

QWidget* VideoDesk::build_sync(QWidget* parent) {
    auto* holder = new QWidget(parent);
    auto* column = new QVBoxLayout(holder);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    strip_ = new MomentStrip;
    connect(strip_, &MomentStrip::dragged, this, &VideoDesk::nudge);
    column->addWidget(strip_);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    film_box_ = new QComboBox;
    film_box_->setObjectName(QStringLiteral("video-film"));
    film_box_->setAccessibleName(tr("Film of the chosen picture"));
    film_box_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    film_box_->setMinimumContentsLength(22);
    connect(film_box_, &QComboBox::activated, this, [this] { choose_film(film_box_->currentData().toLongLong()); });
    row->addWidget(film_box_);
    const auto button = [&](const char* name, const QString& text, const QString& tip, auto act) {
        auto* out = new QPushButton(text);
        out->setObjectName(QLatin1String(name));
        out->setToolTip(tip);
        out->setProperty("compact", true);
        connect(out, &QPushButton::clicked, this, act);
        row->addWidget(out);
        return out;
    };
    propose_ = button("video-propose", tr("Propose"),
                      tr("From how the picture turns and moves, and from the engine's sound"), [this] { propose(); });
    const auto frame_s = [this] {
        const auto* film = chosen_ == nullptr || !chosen_->film() ? nullptr : &chosen_->film()->film;
        return film == nullptr || film->frames_per_s <= 0 ? 0.04 : 1 / film->frames_per_s;
    };
    nudges_ = {
        button("video-second-back", tr("−1 s"), tr("The data a second earlier under the picture"),
               [this] { nudge(-1); }),
        button("video-frame-back", tr("−1 frame"), tr("The data a frame earlier under the picture"),
               [this, frame_s] { nudge(-frame_s()); }),
        button("video-frame-on", tr("+1 frame"), tr("The data a frame later under the picture"),
               [this, frame_s] { nudge(frame_s()); }),
        button("video-second-on", tr("+1 s"), tr("The data a second later under the picture"), [this] { nudge(1); })};
    mark_ = button("video-mark", tr("Mark an event"),
                   tr("Holds the picture: move the cursor to the same event in the traces, and press again"),
                   [this] { mark_here(); });
    clocks_ =
        button("video-clocks", tr("By the clocks"),
               tr("By the dates of the film and the recording, which are often minutes off"), [this] { by_clocks(); });
    told_ = new ElidedLabel;
    told_->setObjectName(QStringLiteral("video-told"));
    told_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(told_, 1);
    column->addLayout(row);
    return holder;
}

QWidget* VideoDesk::build_full() {
    auto* full = new QWidget(this);
    auto* column = new QVBoxLayout(full);
    column->setContentsMargins(12, 8, 12, 6);
    column->setSpacing(5);
    headline_ = new ElidedLabel;
    headline_->setObjectName(QStringLiteral("video-headline"));
    headline_->setFont(headline_font());
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    column->addWidget(headline_);
    column->addWidget(build_tools(full));
    tiles_holder_ = new QWidget(full);
    grid_ = new QGridLayout(tiles_holder_);
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setSpacing(4);
    for (FilmTile*& tile : tiles_) {
        tile = new FilmTile(tiles_holder_);
        tile->installEventFilter(this);
        connect(tile, &FilmTile::chosen, this, [this, it = tile] { choose_tile(it); });
        connect(tile, &FilmTile::style_changed, this, &VideoDesk::set_style);
        connect(tile, &FilmTile::enlarged, this, [this, it = tile] { enlarge(large_ == it ? nullptr : it); });
        tile->hide();
    }
    column->addWidget(tiles_holder_, 1);
    sync_ = build_sync(full);
    column->addWidget(sync_);
    return full;
}

QWidget* VideoDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    empty_words_ = new PlainLabel;
    empty_words_->setObjectName(QStringLiteral("video-empty"));
    empty_words_->setWordWrap(true);
    empty_words_->setAlignment(Qt::AlignCenter);
    empty_words_->setMinimumWidth(420);
    empty_go_ = new QPushButton(tr("Pick laps in the Logbook"));
    empty_go_->setProperty("primary", true);
    connect(empty_go_, &QPushButton::clicked, this, [this] {
        if (workspace_.comparison().laps().empty())
            Q_EMIT workspace_.desk_asked(QStringLiteral("logbook"));
        else
            ask_files();
    });
    column->addWidget(empty_words_, 0, Qt::AlignCenter);
    column->addWidget(empty_go_, 0, Qt::AlignCenter);
    return empty;
}

void VideoDesk::ask_clip() {
    if (chosen_ == nullptr || !chosen_->film()) return;
    const FilmTile::Of& of = *chosen_->film();
    const PreparedLap& lap = of.moments->lap();
    ClipDialog::Known known;
    known.film = QSize(of.film.width, of.film.height);
    known.frames_per_s = of.film.frames_per_s;
    known.lap_s = lap.time_s();
    known.two = shown_tiles().size() > 1 && shown_tiles().back()->film()->slot != shown_tiles().front()->film()->slot;
    if (lap.track != nullptr) {
        known.range_m = workspace_.comparison().range_m();
        known.range_s = lap.map.time_at(known.range_m.end) - lap.map.time_at(known.range_m.begin);
        const double at_m = workspace_.focus().state().cursor_m;
        for (const Corner& corner : lap.track->corners) {
            const Interval about{std::max(0.0, corner.start_m - 100),
                                 std::min(lap.track->length_m, corner.end_m + 100)};
            if (!about.contains(at_m)) continue;
            known.corner = QString::fromStdString(corner.title());
            known.corner_m = about;
            known.corner_s = lap.map.time_at(about.end) - lap.map.time_at(about.begin);
        }
    }
    ClipDialog dialog(known, this);
    if (dialog.exec() != QDialog::Accepted) return;
    Clip clip = dialog.clip();
    clip.file = QFileDialog::getSaveFileName(this, tr("Write a clip"), QStringLiteral("clip.mp4"),
                                             tr("Films (*.mp4 *.mov *.mkv *.avi)"));
    if (clip.file.isEmpty()) return;
    if (!clip.file.contains(u'.')) clip.file += QStringLiteral(".mp4");
    write_clip(clip);
}

}  // namespace rendak::app
