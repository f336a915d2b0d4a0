// How the Chassis desk is put together.
#include <QButtonGroup>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSplitter>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/desks/chassis/chassis_desk.h"
#include "app/desks/chassis/page_rows.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

PlainLabel* tool_label(const QString& text) {
    auto* out = new PlainLabel(text);
    out->setProperty("secondary", true);
    return out;
}

}  // namespace

QWidget* ChassisDesk::build_tools(QWidget* parent) {
    auto* holder = new QWidget(parent);
    auto* row = new QHBoxLayout(holder);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(5);
    using Page = ChassisPage;
    const auto add = [&](QWidget* widget, std::vector<Page> pages) {
        row->addWidget(widget);
        tools_.emplace_back(widget, std::move(pages));
    };
    const auto box = [&](const char* name, const QString& title, const std::vector<std::pair<QString, QVariant>>& items,
                         const std::vector<Page>& pages) {
        auto* out = new QComboBox;
        out->setObjectName(QLatin1String(name));
        out->setAccessibleName(title);
        out->setToolTip(title);
        for (const auto& [label, value] : items) out->addItem(label, value);
        connect(out, &QComboBox::activated, this, &ChassisDesk::choose);
        add(out, pages);
        return out;
    };
    on_ = box("chassis-on", tr("Where on the lap"),
              {{tr("as proposed"), QString()},
               {tr("whole lap"), QStringLiteral("lap")},
               {tr("exits of slow corners"), QStringLiteral("exits")},
               {tr("corners"), QStringLiteral("corners")},
               {tr("straights"), QStringLiteral("straights")},
               {tr("kerbs"), QStringLiteral("kerbs")},
               {tr("the range"), QStringLiteral("range")},
               {tr("my own"), QStringLiteral("own")}},
              {Page::dampers, Page::spectrum, Page::ladder});
    channel_ = box("chassis-channel", tr("What moves"),
                   {{tr("tyre load"), QStringLiteral("tyre_load")},
                    {tr("damper travel"), QStringLiteral("damper")},
                    {tr("ride height"), QStringLiteral("ride_height")}},
                   {Page::spectrum, Page::ladder});
    axle_ = box("chassis-axle", tr("Axle"),
                {{tr("rear"), QStringLiteral("rear")},
                 {tr("front"), QStringLiteral("front")},
                 {tr("both"), QStringLiteral("both")}},
                {Page::spectrum});
    wheels_ = box("chassis-wheels", tr("Wheels"),
                  {{tr("loaded side"), 1}, {tr("unloaded side"), 2}, {tr("each wheel"), 0}}, {Page::spectrum});
    const auto spin = [&](const char* name, const QString& title, double least, double most, double value, int decimals,
                          const QString& unit, const std::vector<Page>& pages) {
        auto* out = new QDoubleSpinBox;
        out->setObjectName(QLatin1String(name));
        out->setAccessibleName(title);
        out->setToolTip(title);
        out->setRange(least, most);
        out->setDecimals(decimals);
        out->setValue(value);
        out->setSuffix(unit);
        out->setKeyboardTracking(false);
        connect(out, &QDoubleSpinBox::valueChanged, this, &ChassisDesk::choose);
        add(out, pages);
        return out;
    };
    add(tool_label(tr("slow up to")), {Page::dampers});
    border_ = spin("chassis-border", tr("Border of slow and fast"), 5, 300, 50, 0, tr(" mm/s"), {Page::dampers});
    add(tool_label(tr("segments")), {Page::spectrum, Page::ladder});
    segment_ =
        spin("chassis-segment", tr("Seconds of a segment"), 0.25, 10, 1, 2, tr(" s"), {Page::spectrum, Page::ladder});
    add(tool_label(tr("band")), {Page::spectrum, Page::ladder});
    band_from_ = spin("chassis-band-from", tr("Band from"), 0, 99, 1, 1, tr(" Hz"), {Page::spectrum, Page::ladder});
    band_to_ = spin("chassis-band-to", tr("Band to"), 0.5, 100, 10, 1, tr(" Hz"), {Page::spectrum, Page::ladder});
    line_ = box("chassis-line", tr("Line of the setup sheet that is stepped"), {}, {Page::ladder});
    add(tool_label(tr("against")), {Page::ladder});
    baseline_ = box("chassis-baseline", tr("Baseline that the others are held against"), {}, {Page::ladder});
    for (QComboBox* it : {line_, baseline_}) it->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    add(tool_label(tr("aimed at")), {Page::trial});
    aim_ = box("chassis-aim", tr("What the change was aimed at"),
               {{tr("the whole lap"), QString()},
                {tr("braking"), QStringLiteral("braking")},
                {tr("slow corners"), QStringLiteral("slow corners")},
                {tr("middling corners"), QStringLiteral("middling corners")},
                {tr("fast corners"), QStringLiteral("fast corners")},
                {tr("straights"), QStringLiteral("straights")}},
               {Page::trial});
    aim_->setEditable(true);
    aim_->setToolTip(tr("What the change was aimed at; a corner by its number"));
    connect(aim_, &QComboBox::editTextChanged, this, [this] {
        if (aim_->findText(aim_->currentText()) >= 0 || aim_->currentText().toInt() > 0) choose();
    });
    row->addStretch(1);
    plan_ = new QPushButton(tr("Write to the run sheet"));
    plan_->setToolTip(tr("The proposed runs become lines of the event's run sheet"));
    connect(plan_, &QPushButton::clicked, this, &ChassisDesk::write_run_sheet);
    add(plan_, {Page::ladder});
    keep_ = new QPushButton(tr("Keep the trial"));
    keep_->setToolTip(
        tr("With what the figures say today; what was decided is written to it in the list of kept ones"));
    connect(keep_, &QPushButton::clicked, this, &ChassisDesk::keep_trial_shown);
    add(keep_, {Page::trial});
    return holder;
}

QWidget* ChassisDesk::build_full() {
    auto* full = new QWidget(this);
    auto* column = new QVBoxLayout(full);
    column->setContentsMargins(12, 8, 12, 6);
    column->setSpacing(5);
    headline_ = new ElidedLabel;
    headline_->setObjectName(QStringLiteral("chassis-headline"));
    headline_->setFont(headline_font());
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    column->addWidget(headline_);
    foot_ = new ElidedLabel;
    foot_->setObjectName(QStringLiteral("chassis-foot"));
    foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    column->addWidget(foot_);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    pages_ = new QButtonGroup(this);
    for (const PageRow& it : page_rows) {
        auto* button = new QPushButton(tr(it.title));
        button->setCheckable(true);
        button->setToolTip(tr(it.hint));
        button->setProperty("compact", true);
        pages_->addButton(button, static_cast<int>(it.page));
        row->addWidget(button);
    }
    connect(pages_, &QButtonGroup::idClicked, this, [this](int id) { show_page(static_cast<ChassisPage>(id)); });
    row->addStretch(1);
    column->addLayout(row);
    column->addWidget(build_tools(full));
    strip_ = new StretchStrip;
    connect(strip_, &StretchStrip::chosen, this, &ChassisDesk::choose_stretches);
    tools_.emplace_back(strip_, std::vector{ChassisPage::dampers, ChassisPage::spectrum, ChassisPage::ladder});
    column->addWidget(strip_);
    auto* across = new QSplitter(Qt::Horizontal, full);
    across->setChildrenCollapsible(false);
    for (std::size_t k = 0; k < 2; ++k) {
        auto* down = new QSplitter(Qt::Vertical, across);
        down->setChildrenCollapsible(false);
        pictures_[k] = new ChassisPicture(down);
        down->addWidget(pictures_[k]);
        auto* holder = new QWidget(down);
        auto* below = new QVBoxLayout(holder);
        below->setContentsMargins(0, 2, 0, 0);
        below->setSpacing(3);
        table_titles_[k] = new PlainLabel;
        table_titles_[k]->setFont(body_font(true));
        below->addWidget(table_titles_[k]);
        auto* table = new QTableWidget(holder);
        table->setObjectName(k == 0 ? QStringLiteral("chassis-table") : QStringLiteral("chassis-second-table"));
        make_reading_table(*table, 19);
        table->setEditTriggers(QAbstractItemView::NoEditTriggers);
        table->setMinimumHeight(60);
        connect(table, &QTableWidget::cellDoubleClicked, this, [this, k](int r, int) {
            if (look_ == nullptr || k >= look_->tables.size()) return;
            const auto& trials = look_->tables[k].trials;
            if (static_cast<std::size_t>(r) < trials.size()) return decide_trial(trials[static_cast<std::size_t>(r)]);
            const auto& at = look_->tables[k].at_m;
            if (static_cast<std::size_t>(r) >= at.size() || !at[static_cast<std::size_t>(r)]) return;
            workspace_.focus().set_cursor(*at[static_cast<std::size_t>(r)]);
            Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
        });
        tables_[k] = table;
        below->addWidget(table, 1);
        down->addWidget(holder);
        down->setStretchFactor(0, 5);
        down->setStretchFactor(1, 4);
        across->addWidget(down);
    }
    across->setSizes({620, 580});
    column->addWidget(across, 1);
    return full;
}

QWidget* ChassisDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    auto* words =
        new PlainLabel(tr("No lap is picked. Pick a lap of the run whose chassis you want to see, and one of the "
                          "run to hold against it."));
    words->setObjectName(QStringLiteral("empty"));
    auto* go = new QPushButton(tr("Pick laps in the Logbook"));
    go->setProperty("primary", true);
    connect(go, &QPushButton::clicked, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("logbook")); });
    column->addWidget(words, 0, Qt::AlignCenter);
    column->addWidget(go, 0, Qt::AlignCenter);
    return empty;
}

}  // namespace rendak::app
