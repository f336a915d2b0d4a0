#include "app/desks/compare/compare_desk.h"

#include <QButtonGroup>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>

#include "app/desks/compare/channel_picker.h"
#include "app/session/preferences.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/run_differences.h"
#include "core/laps/cut.h"
#include "core/signal/quantity.h"

namespace rendak::app {

QWidget* CompareDesk::build_top(QWidget* parent) {
    auto* top = new QWidget(parent);
    auto* row = new QHBoxLayout(top);
    row->setContentsMargins(8, 6, 0, 4);
    auto* text = new QVBoxLayout;
    text->setSpacing(2);
    headline_ = new ElidedLabel;
    headline_->setFont(headline_font());
    headline_->setObjectName(QStringLiteral("headline"));
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    evidence_ = new LinkLabel;
    evidence_->setObjectName(QStringLiteral("evidence"));
    evidence_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    evidence_->setWordWrap(true);
    evidence_->setMinimumHeight(32);
    evidence_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    connect(evidence_, &QLabel::linkActivated, this,
            [this](const QString& link) { go_to_corner(link.mid(7).toInt()); });
    changes_ = new ElidedLabel;
    changes_->setObjectName(QStringLiteral("changes"));
    changes_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    changes_->hide();
    text->addWidget(headline_);
    text->addWidget(evidence_);
    text->addWidget(changes_);
    text->addWidget(build_overlay(top));
    row->addLayout(text, 1);
    return top;
}

QWidget* CompareDesk::build_overlay(QWidget* parent) {
    overlay_ = new QWidget(parent);
    overlay_->setObjectName(QStringLiteral("overlay"));
    auto* row = new QHBoxLayout(overlay_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    shift_label_ = new PlainLabel;
    shift_ = new QDoubleSpinBox;
    shift_->setDecimals(2);
    shift_->setRange(-1e6, 1e6);
    shift_->setSingleStep(0.05);
    shift_->setSuffix(QStringLiteral(" s"));
    shift_->setKeyboardTracking(false);
    shift_->setAccessibleName(tr("Offset to A"));
    find_shift_ = new QPushButton(tr("Find the offset"));
    find_shift_->setProperty("compact", true);
    find_shift_->setToolTip(tr("Where speed, or what else both have logged, is most alike"));
    connect(shift_, &QDoubleSpinBox::valueChanged, this, [this](double value) {
        const auto& comparison = workspace_.comparison();
        if (comparison.laps().laps.size() < 2) return;
        const int slot = std::max(1, comparison.active_slot());
        workspace_.focus().set_shift(comparison.laps().laps[static_cast<std::size_t>(slot)].lap.ref.run, value);
    });
    connect(find_shift_, &QPushButton::clicked, this, &CompareDesk::find_shift);
    row->addWidget(shift_label_);
    row->addWidget(shift_);
    row->addWidget(find_shift_);
    row->addStretch(1);
    overlay_->hide();
    return overlay_;
}

QWidget* CompareDesk::build_side(QWidget* parent) {
    auto* side = new QWidget(parent);
    side->setMinimumWidth(340);
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 8, 0, 8);
    column->setSpacing(8);

    auto* tools = new QHBoxLayout;
    tools->setSpacing(3);
    auto* axis = new QButtonGroup(this);
    const auto choice = [&](const QString& label, const QString& hint, QButtonGroup* group) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setProperty("compact", true);
        button->setToolTip(hint);
        button->setFocusPolicy(Qt::TabFocus);  // a click leaves the keyboard with the traces
        group->addButton(button);
        return button;
    };
    distance_ = choice(tr("Distance"), tr("Laps against the place on track (D)"), axis);
    time_ = choice(tr("Time"), tr("Laps against the time since the line (T)"), axis);
    run_ = choice(tr("Run"), tr("The whole recording against time: laps before and behind, stops (R)"), axis);
    tools->addWidget(distance_);
    tools->addWidget(time_);
    tools->addWidget(run_);
    connect(run_, &QPushButton::clicked, this, [this] { workspace_.focus().set_axis(Axis::run); });
    connect(distance_, &QPushButton::clicked, this, [this] { workspace_.focus().set_axis(Axis::distance); });
    connect(time_, &QPushButton::clicked, this, [this] { workspace_.focus().set_axis(Axis::time); });
    tools->addStretch();
    const auto menu_button = [&](const QString& label, const QString& hint) {
        auto* button = new QToolButton;
        button->setProperty("compact", true);
        button->setText(label);
        button->setToolTip(hint);
        button->setFocusPolicy(Qt::TabFocus);
        button->setPopupMode(QToolButton::InstantPopup);
        button->setMenu(new QMenu(button));
        tools->addWidget(button);
        return button;
    };
    pages_button_ = menu_button(tr("Pages"), tr("Lanes by theme; P and Shift+P step through them"));
    pages_menu_ = pages_button_->menu();
    pages_menu_->setObjectName(QStringLiteral("pages"));
    connect(pages_menu_, &QMenu::aboutToShow, this, &CompareDesk::fill_pages_menu);
    channels_ = new QToolButton;
    channels_->setObjectName(QStringLiteral("pick-channels"));
    channels_->setProperty("compact", true);
    channels_->setText(tr("Channels"));
    channels_->setFocusPolicy(Qt::TabFocus);
    channels_->setToolTip(tr("Which channels have a lane (C)"));
    tools->addWidget(channels_);
    picker_ = new ChannelPicker(this);
    connect(channels_, &QToolButton::clicked, this, &CompareDesk::show_picker);
    connect(picker_, &ChannelPicker::toggled, this, &CompareDesk::toggle_lane);
    connect(picker_, &ChannelPicker::favourites_changed, this,
            [](const QStringList& ids) { Preferences::of_person().set_favourites(ids); });
    marks_menu_ = menu_button(tr("Marks"), tr("Save this range, go back to a saved one"))->menu();
    marks_menu_->setObjectName(QStringLiteral("marks"));
    connect(marks_menu_, &QMenu::aboutToShow, this, &CompareDesk::fill_marks_menu);
    out_menu_ =
        menu_button(tr("Out"), tr("Pictures and data of these views: to a file, the clipboard, a printer"))->menu();
    out_menu_->setObjectName(QStringLiteral("out"));
    connect(out_menu_, &QMenu::aboutToShow, this, &CompareDesk::fill_out_menu);
    column->addLayout(tools);

    auto* map_panel = new QFrame(side);
    map_panel->setProperty("role", QStringLiteral("panel"));
    auto* map_column = new QVBoxLayout(map_panel);
    map_column->setContentsMargins(4, 4, 4, 4);
    map_column->setSpacing(2);
    auto* map_tools = new QHBoxLayout;
    map_tools->setSpacing(4);
    auto* views = new QButtonGroup(this);
    plan_ = choice(tr("Plan"), tr("The whole circuit: where am I"), views);
    lines_ = choice(tr("Lines"), tr("The lines as driven, in the range"), views);
    plan_->setChecked(true);
    connect(plan_, &QPushButton::clicked, this, [this] { show_map(MapCanvas::View::plan); });
    connect(lines_, &QPushButton::clicked, this, [this] { show_map(MapCanvas::View::lines); });
    side_ = choice(tr("Side"), tr("From the side: how the road climbs and falls"), views);
    connect(side_, &QPushButton::clicked, this, [this] { show_map(MapCanvas::View::side); });
    for (QPushButton* button : {plan_, lines_, side_}) map_tools->addWidget(button);
    auto* paint = new QToolButton;
    paint->setProperty("compact", true);
    paint->setText(tr("Paint"));
    paint->setFocusPolicy(Qt::TabFocus);
    paint->setToolTip(tr("Paint the active lap by a channel; what the laps do at the corners; turn the map"));
    paint->setPopupMode(QToolButton::InstantPopup);
    paint_menu_ = new QMenu(paint);
    paint->setMenu(paint_menu_);
    connect(paint_menu_, &QMenu::aboutToShow, this, &CompareDesk::fill_paint_menu);
    map_tools->addWidget(paint);
    map_tools->addStretch();
    const auto zoom_button = [&](const QString& label, const QString& name, auto act) {
        auto* button = new QToolButton;
        button->setProperty("compact", true);
        button->setText(label);
        button->setToolTip(name);
        button->setAccessibleName(name);
        button->setFocusPolicy(Qt::TabFocus);
        connect(button, &QToolButton::clicked, this, act);
        map_tools->addWidget(button);
    };
    zoom_button(QStringLiteral("+"), tr("Zoom the map in"), [this] { map_->zoom(1.4); });
    zoom_button(QStringLiteral("−"), tr("Zoom the map out"), [this] { map_->zoom(1 / 1.4); });
    zoom_button(tr("Fit"), tr("Fit the map; a second click fits the range"), [this] {
        map_fits_range_ ? map_->fit_range() : map_->fit();
        map_fits_range_ = !map_fits_range_;
    });
    connect(map_, &MapCanvas::turned, this, [this] {
        const ComparedLaps& laps = workspace_.comparison().laps();
        if (!laps.on_track()) return;
        const auto key = "map.turned." + std::to_string(laps.baseline().run->row.track.value);
        if (const auto kept = workspace_.library().set_setting(key, std::to_string(map_->turned_deg())); !kept)
            workspace_.tell(kept.error());
    });
    map_column->addLayout(map_tools);
    map_column->addWidget(map_, 1);
    column->addWidget(map_panel, 5);

    auto* value_panel = new QFrame(side);
    value_panel->setProperty("role", QStringLiteral("panel"));
    auto* value_column = new QVBoxLayout(value_panel);
    value_column->setContentsMargins(2, 2, 2, 2);
    beside_ = new Beside(workspace_, value_panel);
    connect(beside_, &Beside::state_changed, this, &CompareDesk::state_changed);
    value_column->addWidget(beside_);
    column->addWidget(value_panel, 7);
    return side;
}

QWidget* CompareDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    empty_text_ = new PlainLabel;
    empty_text_->setFont(headline_font());
    empty_text_->setAlignment(Qt::AlignCenter);
    empty_text_->setWordWrap(true);
    empty_text_->setMinimumWidth(560);
    auto* pick = new QPushButton(tr("Compare the best laps of the two latest runs"));
    pick->setObjectName(QStringLiteral("pick-latest"));
    pick->setProperty("primary", true);
    auto* logbook = new QPushButton(tr("Go to the Logbook"));
    connect(pick, &QPushButton::clicked, this, [this] {
        const auto runs = workspace_.shown(workspace_.library().runs());
        std::vector<RunId> with_laps;
        for (const RunRow& run : runs) {
            const auto laps = workspace_.shown(workspace_.library().laps(run.id));
            if (best_lap(laps) != nullptr) with_laps.push_back(run.id);
        }
        if (with_laps.empty()) {
            workspace_.tell(tr("No run has a flying lap yet. Import files in the Logbook, and learn their track."));
            return;
        }
        for (std::size_t i = with_laps.size() > 1 ? with_laps.size() - 2 : 0; i < with_laps.size(); ++i)
            workspace_.pick_best(with_laps[i]);
    });
    connect(logbook, &QPushButton::clicked, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("logbook")); });
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    buttons->addWidget(pick);
    buttons->addWidget(logbook);
    buttons->addStretch();
    column->addWidget(empty_text_);
    column->addSpacing(12);
    column->addLayout(buttons);
    return empty;
}

}  // namespace rendak::app
