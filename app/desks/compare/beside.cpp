#include "app/desks/compare/beside.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QCoreApplication>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/text/shown.h"
#include "core/intake/run_data.h"

namespace rendak::app {
namespace {

struct Kind {
    const char* name;
    const char* hint;
    const char* help;
};

constexpr Kind kinds[Beside::picture_count] = {
    {QT_TRANSLATE_NOOP("Beside", "Values"), QT_TRANSLATE_NOOP("Beside", "At the cursor and in the range"),
     QT_TRANSLATE_NOOP("Beside",
                       "Each lap at the cursor, against A, and its low, mean and high in the range; with a pin, what "
                       "happens between the two. Look for a low or a high that differs, and click it to go there.")},
    {QT_TRANSLATE_NOOP("Beside", "Changes"), QT_TRANSLATE_NOOP("Beside", "Where the gap changes its slope"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "Every stretch over which the gap grows or shrinks at one pace, the largest first; together they "
         "are the gap. Look at the first of each sign, click it, and ask what the driver does at its "
         "beginning.")},
    {QT_TRANSLATE_NOOP("Beside", "Circle"), QT_TRANSLATE_NOOP("Beside", "Friction circle"),
     QT_TRANSLATE_NOOP("Beside",
                       "Lateral against along acceleration, with the reach of each lap as an outline. Look for sides "
                       "where a lap reaches less far, and for a dent between braking and cornering.")},
    {QT_TRANSLATE_NOOP("Beside", "Scatter"), QT_TRANSLATE_NOOP("Beside", "Two channels against each other"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "Two channels against each other, coloured by a third when you like, with the straight line that "
         "fits best. Look for clouds of two laps that lie apart, and trust no line that explains little.")},
    {QT_TRANSLATE_NOOP("Beside", "Shares"), QT_TRANSLATE_NOOP("Beside", "Share of time or way by value"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "How much of the range a channel spends in each step of its values. Look for a hump that one lap "
         "has and the other has not.")},
    {QT_TRANSLATE_NOOP("Beside", "Laps"), QT_TRANSLATE_NOOP("Beside", "The same range, lap after lap"),
     QT_TRANSLATE_NOOP("Beside",
                       "The same range of every lap of the run, A in grey behind each. Look whether a difference comes "
                       "back on every lap, and click a lap to compare it.")},
    {QT_TRANSLATE_NOOP("Beside", "Ledger"), QT_TRANSLATE_NOOP("Beside", "Time ledger: where the difference lies"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "Each corner with the road behind it: what is lost in the corner, what its exit costs further on, "
         "and what the car's pull makes of the straight; the rows add up to the difference. Look for the "
         "longest bar and its kind: solid is the driver's corner, dots are rather the car's.")},
    {QT_TRANSLATE_NOOP("Beside", "Card"),
     QT_TRANSLATE_NOOP("Beside", "Corner card: all about the corner at the cursor"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "One corner with its lines, traces, ledger row, sentences and every figure of both sides with its scatter. "
         "Step from corner to corner with Page Up and Page Down, and look for figures that differ by more than they "
         "scatter.")},
    {QT_TRANSLATE_NOOP("Beside", "Work"), QT_TRANSLATE_NOOP("Beside", "What to work on, and what is being worked on"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "Where seconds could be found, the surest first and the driver before the car, and below it what drivers work "
         "on already. Take one thing at a time: choose a sentence, press Work on it, and look here after the next "
         "run.")},
    {QT_TRANSLATE_NOOP("Beside", "Overview"), QT_TRANSLATE_NOOP("Beside", "The two on one page"),
     QT_TRANSLATE_NOOP(
         "Beside",
         "Who, car and tyres, what is not the same, sectors, in words, what to do first, and the lap made "
         "of each one's best sections. Read it before you look closer; every line leads to its place.")},
    {QT_TRANSLATE_NOOP("Beside", "Film"), QT_TRANSLATE_NOOP("Beside", "The films of A and of the active lap"),
     QT_TRANSLATE_NOOP("Beside",
                       "What the cameras saw at the cursor, A above and the active lap below, at the same place. Step "
                       "through a corner "
                       "and look at the road beside both: who turns in first, who uses the kerb.")},
};

std::string id_of(const QComboBox& box) {
    return box.currentData().toString().toStdString();
}

/// A list is given out as it is seen.
std::function<void(QPainter&, QSize)> of_widget(QWidget* widget) {
    return [widget](QPainter& painter, QSize) { widget->render(&painter); };
}

void choose(QComboBox& box, const std::string& id) {
    const int at = box.findData(QString::fromStdString(id));
    if (at >= 0) box.setCurrentIndex(at);
}

}  // namespace

Beside::Beside(Workspace& workspace, QWidget* parent) : QWidget(parent), comparison_(workspace.comparison()) {
    Focus& focus = workspace.focus();
    Comparison& comparison = workspace.comparison();
    Jobs& jobs = workspace.jobs();
    story_ = new Story(focus, comparison, jobs, this);
    book_ = new WorkBook(workspace, this);
    values_ = new ValuePanel(focus, comparison);
    changes_ = new ChangeList(focus, comparison);
    circle_ = new PairPicture(focus, comparison, true);
    circle_->show_quantities("lateral_acceleration", "longitudinal_acceleration", "");
    scatter_ = new PairPicture(focus, comparison, false);
    scatter_->show_quantities("speed", "longitudinal_acceleration", "");
    shares_ = new SharePicture(focus, comparison);
    laps_ = new LapsPicture(focus, comparison, jobs);
    ledger_ = new LedgerPicture(*story_);
    card_ = new CornerCard(*story_, *book_);
    work_ = new WorkPanel(*story_, *book_);
    overview_ = new OverviewPicture(*story_, jobs);
    films_ = new FilmsBeside(workspace);
    connect(ledger_, &LedgerPicture::state_changed, this, &Beside::state_changed);

    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    auto* rows = new QGridLayout;
    rows->setSpacing(2);
    buttons_ = new QButtonGroup(this);
    constexpr int in_a_row = 6;
    int place = 0;
    for (const Picture picture : in_order) {
        const int i = static_cast<int>(picture);
        auto* button = new QPushButton(QCoreApplication::translate("Beside", kinds[i].name));
        button->setCheckable(true);
        button->setProperty("tab", true);
        button->setFocusPolicy(Qt::TabFocus);
        button->setToolTip(QCoreApplication::translate("Beside", kinds[i].hint) + tr(" (V steps through them)"));
        buttons_->addButton(button, i);
        rows->addWidget(button, place / in_a_row, place % in_a_row);
        ++place;
    }
    column->addLayout(rows);
    stack_ = new QStackedWidget(this);
    const auto scrolled = [this](QWidget* inside) {
        auto* scroll = new QScrollArea(stack_);
        scroll->setWidget(inside);
        scroll->setWidgetResizable(true);
        scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        scroll->setFrameShape(QFrame::NoFrame);
        return scroll;
    };
    stack_->addWidget(scrolled(values_));
    stack_->addWidget(changes_);
    stack_->addWidget(build_circle());
    stack_->addWidget(build_scatter());
    stack_->addWidget(build_shares());
    stack_->addWidget(scrolled(laps_));
    stack_->addWidget(with_tools({story_->laps_box()}, scrolled(ledger_)));
    stack_->addWidget(with_tools({story_->laps_box()}, scrolled(card_)));
    stack_->addWidget(with_tools({story_->laps_box()}, work_));
    stack_->addWidget(with_tools({story_->laps_box()}, scrolled(overview_)));
    stack_->addWidget(with_tools(films_->tools(), films_));
    connect(films_, &FilmsBeside::silence_changed, this, &Beside::state_changed);
    column->addWidget(stack_, 1);
    connect(buttons_, &QButtonGroup::idClicked, this, [this](int id) { show_picture(static_cast<Picture>(id)); });
    connect(&comparison_, &Comparison::changed, this, &Beside::fill_channels);
    buttons_->button(0)->setChecked(true);
    fill_channels();
}

/// Boxes in a row above a picture.
QWidget* Beside::with_tools(const QList<QWidget*>& tools, QWidget* picture) {
    auto* all = new QWidget(stack_);
    auto* column = new QVBoxLayout(all);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    auto* row = new QHBoxLayout;
    row->setSpacing(3);
    for (QWidget* tool : tools) row->addWidget(tool, 1);
    if (tools.size() < 2) row->addStretch(2);
    column->addLayout(row);
    column->addWidget(picture, 1);
    return all;
}

/// As narrow as its row must be.
QComboBox* Beside::box(const QString& name, const QStringList& choices) {
    auto* out = new QComboBox;
    out->setAccessibleName(name);
    out->setToolTip(name);
    out->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    out->setMinimumContentsLength(5);
    out->addItems(choices);
    return out;
}

QComboBox* Beside::side_box(RangePicture& picture) {
    auto* out = box(tr("Which turns"), {tr("All of it"), tr("Left turns"), tr("Right turns")});
    connect(out, &QComboBox::currentIndexChanged, this,
            [&picture](int at) { picture.show_side(static_cast<TurnSide>(at)); });
    return out;
}

QComboBox* Beside::channel_box(const QString& name) {
    auto* out = box(name, {});
    connect(out, &QComboBox::currentIndexChanged, this, &Beside::take_channels);
    return out;
}

QWidget* Beside::build_circle() {
    return with_tools({side_box(*circle_)}, circle_);
}

QWidget* Beside::build_scatter() {
    x_ = channel_box(tr("Across"));
    y_ = channel_box(tr("Upwards"));
    z_ = channel_box(tr("Coloured by"));
    return with_tools({x_, y_, z_, side_box(*scatter_)}, scatter_);
}

QWidget* Beside::build_shares() {
    share_channel_ = channel_box(tr("Channel"));
    auto* share_of = box(tr("Share of"), {tr("Time"), tr("Way")});
    connect(share_of, &QComboBox::currentIndexChanged, this,
            [this](int at) { shares_->show_share_of(at == 0 ? ShareOf::time : ShareOf::distance); });
    step_ = new QDoubleSpinBox;
    step_->setRange(0, 1e6);
    step_->setDecimals(2);
    step_->setSpecialValueText(tr("usual"));
    step_->setAccessibleName(tr("Step"));
    step_->setToolTip(tr("Width of a step, in the unit shown; 0: a usual one"));
    step_->setKeyboardTracking(false);
    connect(step_, &QDoubleSpinBox::valueChanged, this, [this](double value) { shares_->show_step(value); });
    return with_tools({share_channel_, share_of, step_, side_box(*shares_)}, shares_);
}

void Beside::fill_channels() {
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const ComparedLap& lap : comparison_.laps().laps) runs.push_back(lap.run);
    if (runs.empty()) return;
    filling_ = true;
    const auto channels = shown_channels(runs);
    const auto fill = [&](QComboBox& box, const std::string& now, bool with_none) {
        const QSignalBlocker quiet(box);
        box.clear();
        if (with_none) box.addItem(tr("no colour"), QString());
        for (const ShownChannel& it : channels) box.addItem(shown(it.id).label, QString::fromStdString(it.id));
        if (box.findData(QString::fromStdString(now)) < 0 && !now.empty())
            box.addItem(shown(now).label, QString::fromStdString(now));
        choose(box, now);
    };
    fill(*x_, scatter_->x(), false);
    fill(*y_, scatter_->y(), false);
    fill(*z_, scatter_->z(), true);
    fill(*share_channel_, shares_->quantity(), false);
    filling_ = false;
}

void Beside::take_channels() {
    if (filling_) return;
    if (x_->count() > 0) scatter_->show_quantities(id_of(*x_), id_of(*y_), id_of(*z_));
    if (id_of(*share_channel_) != shares_->quantity()) {
        const QSignalBlocker quiet(step_);
        step_->setValue(0);
        shares_->show_quantity(id_of(*share_channel_));
    }
    Q_EMIT state_changed();
}

void Beside::show_picture(Picture picture) {
    stack_->setCurrentIndex(static_cast<int>(picture));
    buttons_->button(static_cast<int>(picture))->setChecked(true);
    Q_EMIT state_changed();
}

void Beside::step(int by) {
    const auto now = std::find(std::begin(in_order), std::end(in_order), picture()) - std::begin(in_order);
    show_picture(in_order[(now + by + picture_count) % picture_count]);
}

Beside::Picture Beside::picture() const {
    return static_cast<Picture>(stack_->currentIndex());
}

QString Beside::help() const {
    return QCoreApplication::translate("Beside", kinds[static_cast<int>(picture())].help);
}

ViewOut Beside::out() {
    const QString name = QCoreApplication::translate("Beside", kinds[static_cast<int>(picture())].name);
    switch (picture()) {
        case Picture::circle:
            return circle_->out(name);
        case Picture::scatter:
            return scatter_->out(name);
        case Picture::shares:
            return shares_->out(name);
        case Picture::laps:
            return laps_->out(name);
        case Picture::ledger:
            return ledger_->out(name);
        case Picture::card:
            return card_->out(name);
        case Picture::work:
            return work_->out(name);
        case Picture::overview:
            return overview_->out(name);
        case Picture::film:
            return {name, films_->size(), of_widget(films_), [this] { return at_hand(films_->data_text()); }};
        case Picture::changes:
            return {name, changes_->size(), of_widget(changes_), [this] { return at_hand(changes_->data_text()); }};
        case Picture::values:
            break;
    }
    return {name, values_->size(), of_widget(values_), [this] { return at_hand(values_->data_text()); }};
}

void Beside::set_quantities(const std::vector<std::string>& quantities) {
    values_->set_quantities(quantities);
    for (const std::string& id : quantities) {
        if (is_between_laps(id)) continue;
        laps_->show_quantity(id);
        break;
    }
}

QString Beside::state() const {
    return QStringList{
        QString::number(static_cast<int>(picture())), QString::fromStdString(scatter_->x()),
        QString::fromStdString(scatter_->y()),        QString::fromStdString(scatter_->z()),
        QString::fromStdString(shares_->quantity()),  films_->is_silent() ? QStringLiteral("silent") : QString()}
        .join(u'\t');
}

void Beside::restore(const QString& state) {
    const QStringList parts = state.split(u'\t');
    if (parts.size() < 5) return;
    films_->set_silent(parts.value(5) == QStringLiteral("silent"));
    scatter_->show_quantities(parts[1].toStdString(), parts[2].toStdString(), parts[3].toStdString());
    shares_->show_quantity(parts[4].toStdString());
    fill_channels();
    const int picture = parts[0].toInt();
    if (picture >= 0 && picture < picture_count) show_picture(static_cast<Picture>(picture));
}

}  // namespace rendak::app
