#include "app/desks/compare/story.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QSignalBlocker>
#include <algorithm>

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/intake/lap_set.h"

namespace rendak::app {
namespace {

struct TakenWords {
    const char* name;
    const char* hint;
};
constexpr TakenWords words_of[laps_taken_count] = {
    {QT_TRANSLATE_NOOP("Story", "These two laps"), QT_TRANSLATE_NOOP("Story", "The active lap against A")},
    {QT_TRANSLATE_NOOP("Story", "All laps that count"),
     QT_TRANSLATE_NOOP("Story", "All laps that count of the two laps' runs")},
    {QT_TRANSLATE_NOOP("Story", "Near the best"),
     QT_TRANSLATE_NOOP("Story", "Laps of the two runs within 0.5 % of the best of each")},
    {QT_TRANSLATE_NOOP("Story", "Those picked"),
     QT_TRANSLATE_NOOP("Story", "The laps in the tray: those of A's run, and those of the active lap's")},
    {QT_TRANSLATE_NOOP("Story", "The drivers' days"),
     QT_TRANSLATE_NOOP("Story", "All laps that count of the same drivers and cars on those days")},
};

/// The laps that stand for one of the compared.
Result<std::vector<PreparedLap>> laps_for(const ComparedLaps& laps, const ComparedLap& of, LapsTaken taken,
                                          const std::filesystem::path& folder) {
    std::vector<LapWish> wishes;
    std::vector<std::shared_ptr<const RunData>> runs{of.run};
    const RunId run = of.run->row.id;
    switch (taken) {
        case LapsTaken::these_two:
            return std::vector{of.lap};
        case LapsTaken::picked: {
            std::vector<PreparedLap> out;
            for (const ComparedLap& it : laps.laps) {
                if (it.run->row.id == run) out.push_back(it.lap);
            }
            return out;
        }
        case LapsTaken::counting:
        case LapsTaken::near_best:
            wishes.push_back(
                {run, taken == LapsTaken::counting ? LapWish::Which::counting : LapWish::Which::near_best, {}});
            break;
        case LapsTaken::day: {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            auto whole = whole_wishes(**library, {run, LapWish::Which::day, {}});
            if (!whole) return pass_on(whole.error());
            wishes = std::move(*whole);
            runs.clear();
            for (const LapWish& wish : wishes) {
                auto opened = wish.run == run ? of.run : load_run(**library, wish.run);
                if (!opened) return pass_on(opened.error());
                runs.push_back(std::move(*opened));
            }
            break;
        }
    }
    auto set = lap_set(wishes, runs, false);
    if (!set) return pass_on(set.error());
    return std::move(set->laps);
}

Result<std::shared_ptr<const ToldStory>> told_of(const ComparedLaps& laps, std::size_t slot, LapsTaken taken,
                                                 const std::filesystem::path& folder, const JobContext& job) {
    const ComparedLap &a = laps.baseline(), &b = laps.laps[slot];
    const bool same_day = taken == LapsTaken::day && a.run->row.driver == b.run->row.driver &&
                          a.run->row.car == b.run->row.car && a.run->row.event == b.run->row.event;
    if (taken != LapsTaken::these_two && (a.run == b.run || same_day))
        return fail(ErrorCode::bad_input,
                    same_day && a.run != b.run
                        ? "Both laps are of one driver's day, which is one set. Take the laps of the runs instead."
                        : "Both laps are of one run, whose laps are one set. Pick a lap of another run, or press W for "
                          "the two laps.");
    auto out = std::make_shared<ToldStory>();
    auto set_a = laps_for(laps, a, taken, folder);
    if (!set_a) return pass_on(set_a.error());
    job.report(0.2);
    auto set_b = laps_for(laps, b, taken, folder);
    if (!set_b) return pass_on(set_b.error());
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    job.report(0.4);
    out->a = std::move(*set_a);
    out->b = std::move(*set_b);
    out->run_a = a.run->row;
    out->run_b = b.run->row;
    auto story = story_of(out->a, out->b);
    if (!story) return pass_on(story.error());
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    job.report(0.7);
    out->story = std::move(*story);
    out->worth = worth_of(out->a).value_or(std::vector<Worth>());
    out->work = work_list(out->story);
    out->figures_a = corner_figure_table(out->a, corner_peaks(out->a));
    out->figures_b = corner_figure_table(out->b, corner_peaks(out->b));
    for (const PreparedLap& lap : out->b) {
        for (Excursion& it : excursions_of(lap, out->a)) out->excursions.emplace_back(lap.ref, std::move(it));
    }
    for (const PreparedLap& lap : out->a) out->events_a.push_back(corner_events(lap));
    for (const PreparedLap& lap : out->b) out->events_b.push_back(corner_events(lap));
    return out;
}

}  // namespace

const LedgerRow& ToldStory::row_at(double distance_m) const {
    const auto& rows = story.ledger.rows;
    for (const LedgerRow& row : rows) {
        if (row.corner != 0 && distance_m >= row.range_m.begin && distance_m < row.range_m.end) return row;
    }
    return rows.size() > 1 ? rows[1] : rows.front();
}

Story::Story(Focus& focus, Comparison& comparison, Jobs& jobs, QObject* parent)
    : QObject(parent), focus_(focus), comparison_(comparison), working_(jobs) {
    connect(&comparison_, &Comparison::changed, this, &Story::work_out);
    connect(&focus_, &Focus::laps_changed, this, &Story::work_out);
}

void Story::take(LapsTaken which) {
    if (taken_ == which) return;
    taken_ = which;
    Q_EMIT taken_changed();
    work_out();
}

QComboBox* Story::laps_box() {
    auto* box = new QComboBox;
    box->setAccessibleName(tr("Laps that are taken"));
    for (int i = 0; i < laps_taken_count; ++i) {
        box->addItem(QCoreApplication::translate("Story", words_of[i].name));
        box->setItemData(i, QCoreApplication::translate("Story", words_of[i].hint), Qt::ToolTipRole);
    }
    box->setToolTip(tr("Which laps stand for the two (W: these two, or all that count)"));
    box->setCurrentIndex(static_cast<int>(taken_));
    connect(box, &QComboBox::activated, this, [this](int at) { take(static_cast<LapsTaken>(at)); });
    connect(this, &Story::taken_changed, box, [this, box] {
        const QSignalBlocker quiet(box);
        box->setCurrentIndex(static_cast<int>(taken_));
    });
    return box;
}

void Story::work_out() {
    if (!seen_by_.anybody()) return;
    const auto laps = comparison_.shared_laps();
    if (!laps->on_track() || laps->laps.size() < 2) {
        working_.drop();
        told_.reset();
        of_.reset();
        message_ = tr("There is a ledger of two laps of one track: pick a second lap.");
        Q_EMIT changed();
        return;
    }
    const int slot = std::max(1, comparison_.active_slot());
    if (of_ == laps && of_slot_ == slot && of_taken_ == taken_) return;
    of_ = laps;
    of_slot_ = slot;
    of_taken_ = taken_;
    // What is shown belongs to what it was worked out of.
    told_.reset();
    message_ = tr("Adding up …");
    working_.run<std::shared_ptr<const ToldStory>>(
        tr("Time ledger"),
        [laps, slot, taken = taken_, folder = comparison_.library_folder()](const JobContext& job) {
            return told_of(*laps, static_cast<std::size_t>(slot), taken, folder, job);
        },
        [this](Result<std::shared_ptr<const ToldStory>> found) {
            if (found) {
                told_ = std::move(*found);
                message_.clear();
            } else {
                if (found.error().code == ErrorCode::cancelled) of_.reset();
                message_ = QString::fromStdString(found.error().text());
            }
            Q_EMIT changed();
        });
    Q_EMIT changed();
}

QString Story::head_text() const {
    if (told_ == nullptr) return {};
    const auto side = [&](int slot, const RunRow& run, const std::vector<PreparedLap>& laps) {
        const QString letter = slot_letter(slot) + u' ';
        if (of_taken_ == LapsTaken::these_two) return letter + tr("lap %1").arg(laps.front().ref.lap);
        const QString of = QString::fromStdString(of_taken_ == LapsTaken::day ? run.driver : run.name);
        return letter + tr("%1, %2").arg(of, counted(static_cast<qsizetype>(laps.size()), tr("lap"), tr("laps")));
    };
    return tr("%1 against %2").arg(side(of_slot_, told_->run_b, told_->b), side(0, told_->run_a, told_->a));
}

WordUnits Story::words(bool reverse) const {
    const Shown speed = shown("speed"), length = distance_shown();
    WordUnits out{speed.unit.toStdString(),     length.unit.toStdString(),           speed.difference_from_si(1 / 3.6),
                  length.difference_from_si(1), slot_letter(of_slot_).toStdString(), slot_letter(0).toStdString()};
    if (reverse) std::swap(out.a, out.b);
    return out;
}

void Story::show(Interval range_m, double place_m) {
    if (!comparison_.laps().on_track()) return;
    if (focus_.state().axis == Axis::run) focus_.set_axis(Axis::distance);
    comparison_.set_view({range_m.begin - 30, range_m.end + 30});
    focus_.set_cursor(place_m);
}

}  // namespace rendak::app
