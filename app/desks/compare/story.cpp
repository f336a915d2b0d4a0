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
                                          const std::filesystem::path& folder, const JobContext& job) {
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
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
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

std::vector<DrawnLap> drawn(const std::vector<PreparedLap>& laps) {
    constexpr std::size_t most = 12;
    std::vector<DrawnLap> out(std::min(most, laps.size()));
    for (std::size_t k = 0; k < out.size(); ++k) {
        for (double s = 0; s <= laps[k].map.length_m(); s += DrawnLap::step_m) {
            out[k].line.push_back(laps[k].position_at(s));
            out[k].speed_mps.push_back(laps[k].value_at("speed", s));
            out[k].throttle.push_back(laps[k].value_at("throttle", s));
        }
    }
    return out;
}

bool share_a_lap(const std::vector<PreparedLap>& a, const std::vector<PreparedLap>& b) {
    return std::any_of(a.begin(), a.end(), [&](const PreparedLap& lap) {
        return std::any_of(b.begin(), b.end(), [&](const PreparedLap& it) { return it.ref == lap.ref; });
    });
}

/// The other laps of the tray, or the sets that they stand for; each set once, and none that A's or B's laps are in.
void put_beside(ToldStory& told, const ComparedLaps& laps, std::size_t slot, LapsTaken taken,
                const std::filesystem::path& folder, const JobContext& job) {
    std::vector<std::vector<PreparedLap>> sets{told.a, told.b};
    for (std::size_t k = 1; k < laps.laps.size() && !job.stopped(); ++k) {
        if (k == slot) continue;
        auto set = laps_for(laps, laps.laps[k], taken, folder, job);
        const auto say = [&](const Error& why) {
            // Once a run.
            for (const auto& [slot_before, text] : told.not_beside) {
                if (laps.laps[static_cast<std::size_t>(slot_before)].run == laps.laps[k].run) return;
            }
            told.not_beside.emplace_back(static_cast<int>(k), QString::fromStdString(why.text()));
        };
        if (!set) say(set.error());
        if (!set || set->empty()) continue;
        if (std::any_of(sets.begin(), sets.end(), [&](const auto& it) { return share_a_lap(it, *set); })) continue;
        if (auto ledger = ledger_of(told.a, *set))
            told.beside.push_back({static_cast<int>(k), laps.laps[k].run->row, set->front().ref, std::move(*ledger)});
        else
            say(ledger.error());
        sets.push_back(std::move(*set));
    }
}

Result<std::shared_ptr<const ToldStory>> told_of(const ComparedLaps& laps, std::size_t slot, LapsTaken taken,
                                                 const std::filesystem::path& folder, const JobContext& job) {
    const ComparedLap &a = laps.baseline(), &b = laps.laps[slot];
    auto out = std::make_shared<ToldStory>();
    auto set_a = laps_for(laps, a, taken, folder, job);
    if (!set_a) return pass_on(set_a.error());
    job.report(0.2);
    auto set_b = laps_for(laps, b, taken, folder, job);
    if (!set_b) return pass_on(set_b.error());
    if (share_a_lap(*set_a, *set_b)) {
        return fail(ErrorCode::bad_input,
                    a.run == b.run
                        ? "Both laps are of one run, whose laps are one set. Pick a lap of another run, or press W for "
                          "the two laps."
                        : "Both laps are of one driver's day, which is one set. Take the laps of the runs instead.");
    }
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
    // One lap of another driver is no road: who was off is told against the others of the own run.
    const auto usual = lap_set({{b.run->row.id, LapWish::Which::counting, {}}}, {b.run}, true);
    for (const PreparedLap& lap : out->b) {
        if (!usual) break;
        std::vector<PreparedLap> others = usual->laps;
        std::erase_if(others, [&](const PreparedLap& it) { return it.ref == lap.ref; });
        for (Excursion& it : excursions_of(lap, others)) out->excursions.emplace_back(lap.ref, std::move(it));
    }
    put_beside(*out, laps, slot, taken, folder, job);
    out->drawn_a = drawn(out->a);
    out->drawn_b = drawn(out->b);
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

const LedgerRow* ToldStory::Beside::row_of(int corner) const {
    for (const LedgerRow& row : ledger.rows) {
        if (row.corner == corner) return &row;
    }
    return nullptr;
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
        message_ = tr("This takes two laps of one track: pick a second lap.");
        Q_EMIT changed();
        return;
    }
    const int slot = std::max(1, comparison_.active_slot());
    const QString units = shown("speed").unit + u' ' + distance_shown().unit;
    if (of_ == laps && of_slot_ == slot && of_taken_ == taken_) {
        // The same, in other units.
        if (units != std::exchange(units_, units)) Q_EMIT changed();
        return;
    }
    units_ = units;
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
    return tr("%1 against %2").arg(side_name(false), side_name(true));
}

QString Story::side_name(bool of_a) const {
    if (told_ == nullptr) return {};
    return of_a ? side_text(0, told_->run_a, told_->a.front().ref, told_->a.size())
                : side_text(of_slot_, told_->run_b, told_->b.front().ref, told_->b.size());
}

QString Story::side_text(int slot, const RunRow& run, LapRef first, std::size_t laps) const {
    const QString letter = slot_letter(slot) + u' ';
    if (of_taken_ == LapsTaken::these_two) return letter + tr("lap %1").arg(first.lap);
    const QString of = QString::fromStdString(of_taken_ == LapsTaken::day ? run.driver : run.name);
    return letter + tr("%1, %2").arg(of, counted(static_cast<qsizetype>(laps), tr("lap"), tr("laps")));
}

QString Story::name_of(const ToldStory::Beside& it) const {
    return side_text(it.slot, it.run, it.first, it.ledger.b_laps);
}

WordUnits Story::words(bool reverse) const {
    const Shown speed = shown("speed"), length = distance_shown();
    WordUnits out{speed.unit.toStdString(),     length.unit.toStdString(),           speed.difference_from_si(1 / 3.6),
                  length.difference_from_si(1), slot_letter(of_slot_).toStdString(), slot_letter(0).toStdString()};
    if (reverse) std::swap(out.a, out.b);
    return out;
}

QString Story::worth_text(int corner) const {
    if (told_ == nullptr || corner == 0) return {};
    for (const Worth& it : told_->worth) {
        if (it.corner != corner) continue;
        const Shown speed = shown("speed");
        const double per = speed.factor * 3.6;  // worth is of 1 km/h
        return tr("1 %1 more is worth %2 s at the slowest place, %3 s at the exit")
            .arg(speed.unit, QString::number(it.slowest_s * per, 'f', 3), QString::number(it.exit_s * per, 'f', 3));
    }
    return {};
}

void Story::show(Interval range_m, double place_m) {
    if (!comparison_.laps().on_track()) return;
    if (focus_.state().axis == Axis::run) focus_.set_axis(Axis::distance);
    comparison_.set_view({range_m.begin - 30, range_m.end + 30});
    focus_.set_cursor(place_m);
}

}  // namespace rendak::app
