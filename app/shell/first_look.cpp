#include "app/shell/first_look.h"

#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <algorithm>

#include "app/desks/compare/compare_desk.h"
#include "app/desks/corners/corners_desk.h"
#include "app/shell/main_window.h"
#include "app/text/plain_text.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

FirstLook::FirstLook(MainWindow& window, std::optional<RunId> run)
    : QDialog(&window), window_(window), reading_(window.workspace().jobs()) {
    setWindowTitle(tr("First look"));
    setObjectName(QStringLiteral("first-look"));
    setModal(false);
    auto* grid = new QGridLayout(this);
    grid->setHorizontalSpacing(12);
    grid->setVerticalSpacing(10);
    grid->setColumnStretch(1, 1);
    const QString acts[steps] = {tr("Look at the laps"), tr("Compare the two"), tr("Show the changes"),
                                 tr("Look at the corner")};
    for (int step = 0; step < steps; ++step) {
        auto* number = new PlainLabel(QString::number(step + 1));
        number->setFont(headline_font());
        auto* text = new PlainLabel;
        text->setWordWrap(true);
        text->setMinimumWidth(360);
        auto* button = new QPushButton(acts[step]);
        connect(button, &QPushButton::clicked, this, [this, step] { go(step); });
        grid->addWidget(number, step, 0, Qt::AlignTop);
        grid->addWidget(text, step, 1);
        grid->addWidget(button, step, 2);
        words_.push_back(text);
        buttons_.push_back(button);
    }
    buttons_.front()->setProperty("primary", true);
    connect(&window.workspace().comparison(), &Comparison::changed, this, &FirstLook::show_words);
    connect(&window.workspace(), &Workspace::runs_changed, this, [this] {
        if (run_.run) read(run_.run);
    });
    read(run);
}

void FirstLook::read(std::optional<RunId> run) {
    reading_.run<Looked>(
        tr("A first look"),
        [folder = window_.workspace().library().folder(), run](const JobContext&) -> Result<Looked> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            Looked out;
            if (run) {
                out.run = *run;
            } else {
                const auto runs = (*library)->summaries();
                if (!runs) return pass_on(runs.error());
                // The list begins with the oldest.
                for (const RunSummary& it : *runs) {
                    if (it.laps > 0) out.run = it.run.id;
                }
                if (!out.run) return out;
            }
            const auto row = (*library)->run(out.run);
            if (!row) return pass_on(row.error());
            out.name = QString::fromStdString(row->driver + " " + row->name).trimmed();
            auto laps = (*library)->laps(out.run);
            if (!laps) return pass_on(laps.error());
            out.laps = std::move(*laps);
            return out;
        },
        [this](Result<Looked> found) {
            if (!found) return window_.workspace().tell(found.error());
            run_ = std::move(*found);
            best_.clear();
            std::vector<const Lap*> counting;
            for (const Lap& lap : run_.laps) {
                if (lap.counts()) counting.push_back(&lap);
            }
            std::stable_sort(counting.begin(), counting.end(),
                             [](const Lap* a, const Lap* b) { return a->time_s() < b->time_s(); });
            for (const Lap* lap : counting) best_.push_back(lap->number);
            show_words();
        });
    show_words();
}

QString FirstLook::words(int step) const {
    return words_[static_cast<std::size_t>(step)]->text();
}

void FirstLook::show_words() {
    int complete = 0, counting = 0, doubtful = 0;
    for (const Lap& lap : run_.laps) {
        complete += lap.complete();
        counting += lap.counts();
        doubtful += lap.complete() && lap.doubtful();
    }
    const auto time_of = [&](int number) {
        for (const Lap& lap : run_.laps) {
            if (lap.number == number) return lap.time_s();
        }
        return 0.0;
    };
    words_[0]->setText(
        reading_.running() ? tr("Reading the run …")
        : run_.laps.empty()
            ? tr("There is no run with laps yet: download or import one, and learn its track.")
            : tr("Clean laps. Of %1: %2 of %3 complete laps count%4. Look whether those left out are rightly so.")
                  .arg(run_.name)
                  .arg(counting)
                  .arg(complete)
                  .arg(doubtful > 0 ? tr(", %1 are doubtful").arg(doubtful) : QString()));
    words_[1]->setText(best_.size() < 2
                           ? tr("Best against next best. There are not two laps that count.")
                           : tr("Best against next best. Lap %1 (%2) and lap %3 (%4) of one driver and car: what is "
                                "lost between them can be driven.")
                                 .arg(best_[0])
                                 .arg(lap_time(time_of(best_[0])))
                                 .arg(best_[1])
                                 .arg(lap_time(time_of(best_[1]))));
    const ComparedLaps& laps = window_.workspace().comparison().laps();
    const bool pair = laps.on_track() && laps.laps.size() > 1 && !window_.workspace().comparison().busy();
    const int slot = pair ? std::max(1, window_.workspace().comparison().active_slot()) : 0;
    words_[2]->setText(tr("Where. %1").arg(pair ? headline(laps, slot) : tr("Pick two laps first.")));
    const auto zones =
        pair ? largest_zones(laps.laps[static_cast<std::size_t>(slot)], 1) : std::vector<const ZoneDifference*>();
    const QString why = zones.empty() ? QString() : evidence(*zones.front());
    words_[3]->setText(
        tr("Why. %1").arg(!pair           ? tr("That is asked once it is known where.")
                          : zones.empty() ? tr("No corner stands out.")
                                          : zone_name(*zones.front()) + QStringLiteral(": ") +
                                                (why.isEmpty() ? tr("nothing stands out in pedals and speed; look at "
                                                                    "the line.")
                                                               : why + u'.')));
    buttons_[0]->setEnabled(!run_.laps.empty());
    buttons_[1]->setEnabled(best_.size() >= 2);
    buttons_[2]->setEnabled(pair);
    buttons_[3]->setEnabled(!zones.empty());
}

void FirstLook::go(int step) {
    auto& workspace = window_.workspace();
    auto& compare = window_.desk_of<CompareDesk>();
    switch (step) {
        case 0:
            Q_EMIT workspace.lap_asked({run_.run, best_.empty() ? 0 : best_.front()});
            break;
        case 1: {
            FocusState next = workspace.focus().state();
            next.laps = {{run_.run, best_[0]}, {run_.run, best_[1]}};
            next.active_slot = 1;
            next.axis = Axis::distance;
            next.range_m = {};
            workspace.focus().set_state(next);
            window_.show_desk(QStringLiteral("compare"));
            break;
        }
        case 2:
            window_.show_desk(QStringLiteral("compare"));
            compare.show_side(true);
            compare.beside().show_picture(Beside::Picture::changes);
            break;
        case 3: {
            const ComparedLaps& laps = workspace.comparison().laps();
            if (!laps.on_track() || laps.laps.size() < 2) return;
            const auto zones = largest_zones(
                laps.laps[static_cast<std::size_t>(std::max(1, workspace.comparison().active_slot()))], 1);
            if (zones.empty()) return;
            window_.show_desk(QStringLiteral("compare"));
            compare.go_to_corner(zones.front()->zone.corner.number);
            break;
        }
        default:
            break;
    }
}

}  // namespace rendak::app
