#include "app/desks/logbook/lap_tools.h"

#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/analysis/lap_choice.h"
#include "core/intake/shared_track.h"

namespace rendak::app {

LapTools::LapTools(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    const auto button = [&](const QString& text, const QString& hint, auto act) {
        auto* made = new QPushButton(text);
        made->setToolTip(hint);
        made->setProperty("compact", true);
        connect(made, &QPushButton::clicked, this, act);
        row->addWidget(made);
        return made;
    };
    const auto seconds = [](double value, const QString& name) {
        auto* box = new QDoubleSpinBox;
        box->setRange(0.01, 60);
        box->setDecimals(2);
        box->setSingleStep(0.05);
        box->setValue(value);
        box->setSuffix(QStringLiteral("\u2009s"));
        box->setAccessibleName(name);
        box->setMaximumWidth(84);
        return box;
    };
    ends_ = button(tr("First and last out"),
                   tr("Leaves the first and the last complete lap out: tyres are cold, the driver lets go"),
                   [this] { leave_first_and_last_out(); });
    near_best_ = button(tr("Pick near-best"), tr("Picks the laps within this margin of the best, fastest first"),
                        [this] { pick_near_best(); });
    margin_ = seconds(0.3, tr("Margin of near-best laps"));
    row->addWidget(margin_);
    fair_ = button(tr("Fair lap to A"),
                   tr("Picks the lap of this run that is nearest in time to A and has nothing doubtful about it"),
                   [this] { pick_fair_lap(); });
    launch_ = button(tr("Launch …"), tr("When the car moved off: found by itself, to be adjusted here"),
                     [this] { Q_EMIT launch_asked(); });
    row->addStretch();
    column->addLayout(row);
    auto* judging = new QHBoxLayout;
    judging->setSpacing(4);
    judging->addWidget(new PlainLabel(tr("Would an effect of")));
    effect_ = seconds(0.2, tr("Size of an effect"));
    connect(effect_, &QDoubleSpinBox::valueChanged, this, &LapTools::show_verdict);
    judging->addWidget(effect_);
    judging->addWidget(new PlainLabel(tr("be seen?")));
    verdict_ = new PlainLabel;
    verdict_->setObjectName(QStringLiteral("effect-verdict"));
    verdict_->setWordWrap(true);
    judging->addWidget(verdict_, 1);
    column->addLayout(judging);
    connect(&workspace_.focus(), &Focus::laps_changed, this, &LapTools::refresh);
    connect(&workspace_, &Workspace::runs_changed, this, [this] { open_.clear(); });
}

void LapTools::show_run(RunId run) {
    run_ = run;
    laps_ = run ? workspace_.shown(workspace_.library().laps(run)) : std::vector<Lap>{};
    bool open = false;
    if (run) {
        const auto row = workspace_.library().run(run);
        if (row && row->track) {
            // Reading a track takes milliseconds: once for each.
            const auto known = open_.find(row->track);
            if (known != open_.end()) {
                open = known->second;
            } else {
                const auto track = read_track(workspace_.library(), row->track);
                open = open_[row->track] = track && track->open;
            }
        }
    }
    launch_->setVisible(open);
    refresh();
    show_verdict();
}

bool LapTools::can_set_launch() const {
    return !launch_->isHidden();
}

void LapTools::refresh() {
    const auto flying =
        std::count_if(laps_.begin(), laps_.end(), [](const Lap& lap) { return lap.kind == LapKind::flying; });
    ends_->setEnabled(flying > 2);
    near_best_->setEnabled(flying > 0);
    fair_->setEnabled(flying > 0 && !workspace_.focus().state().laps.empty());
}

void LapTools::show_verdict() {
    const Consistency found = consistency(laps_);
    verdict_->setText(QString::fromStdString(effect_verdict(found, effect_->value())));
    verdict_->setToolTip(QString::fromStdString(found.verdict));
}

QString LapTools::verdict() const {
    return verdict_->text();
}

void LapTools::leave_first_and_last_out() {
    std::vector<Lap> ends;
    const Lap *first = nullptr, *last = nullptr;
    for (const Lap& lap : laps_) {
        if (lap.kind != LapKind::flying) continue;
        if (first == nullptr) first = &lap;
        last = &lap;
    }
    for (const Lap* lap : {first, last}) {
        if (lap != nullptr && lap->included) ends.push_back(*lap);
    }
    if (ends.empty()) return workspace_.tell(tr("The first and the last lap are left out already."));
    workspace_.edit(
        tr("leave the first and the last lap out"),
        [this, run = run_, ends]() -> Result<void> {
            for (const Lap& lap : ends) {
                if (auto done =
                        workspace_.library().switch_lap({run, lap.number}, false, "first or last lap of the run");
                    !done)
                    return done;
            }
            return {};
        },
        [this, run = run_, ends]() -> Result<void> {
            for (const Lap& lap : ends) {
                auto done = lap.switched_by_hand ? workspace_.library().switch_lap({run, lap.number}, true, lap.reason)
                                                 : workspace_.library().unswitch_lap({run, lap.number});
                if (!done) return done;
            }
            return {};
        });
}

void LapTools::pick_near_best() {
    const auto near = near_best(laps_, margin_->value());
    if (near.empty()) return workspace_.tell(tr("No flying lap of this run counts."));
    FocusState state = workspace_.focus().state();
    state.laps.clear();
    for (const std::size_t i : near) {
        if (state.laps.size() < most_laps) state.laps.push_back({run_, laps_[i].number});
    }
    state.active_slot = state.laps.size() > 1 ? 1 : 0;
    workspace_.focus().set_state(state);
    const auto shown_count = static_cast<qsizetype>(state.laps.size()), all = static_cast<qsizetype>(near.size());
    workspace_.tell(tr("%1 within %2 s of the best%3.")
                        .arg(counted(all, tr("lap"), tr("laps")))
                        .arg(margin_->value(), 0, 'f', 2)
                        .arg(all > shown_count ? tr("; the tray holds the fastest %1").arg(shown_count) : QString()));
}

void LapTools::pick_fair_lap() {
    const auto& picked = workspace_.focus().state().laps;
    if (picked.empty()) return;
    const LapRef a = picked.front();
    Candidate own{a, {}};
    for (const Lap& lap : workspace_.shown(workspace_.library().laps(a.run))) {
        if (lap.number == a.lap) own.lap = lap;
    }
    std::vector<Candidate> candidates;
    for (const Lap& lap : laps_) candidates.push_back({{run_, lap.number}, lap});
    const auto fair = fair_lap(own, candidates);
    if (!fair)
        return workspace_.tell(
            tr("No lap of this run is a fair match: none lies within 5 % of A without a doubt about it."));
    workspace_.pick(*fair);
    workspace_.tell(tr("Lap %1 is the fairest match to A.").arg(fair->lap));
}

}  // namespace rendak::app
