// The menus of Compare: lanes and their pages, marks, the paint of the map.
#include "app/desks/compare/compare_desk.h"

#include <QAction>
#include <QButtonGroup>
#include <QCheckBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedLayout>
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
namespace {

/// A menu a set of formulas, made when the first of the set comes.
class SetMenus {
  public:
    explicit SetMenus(QMenu& under) : under_(under) {}
    QMenu* of(const std::string& set) {
        QMenu*& menu = menus_[set];
        if (menu == nullptr) menu = under_.addMenu(QString::fromStdString(set));
        return menu;
    }

  private:
    QMenu& under_;
    std::map<std::string, QMenu*> menus_;
};

}  // namespace

void CompareDesk::fill_pages_menu() {
    pages_menu_->clear();
    for (const QString& name : pages_.names()) {
        QAction* action = pages_menu_->addAction(name);
        action->setCheckable(true);
        action->setChecked(name == page_);
        connect(action, &QAction::triggered, this, [this, name] { show_page(name); });
    }
    pages_menu_->addSeparator();
    QAction* keep = pages_menu_->addAction(tr("Keep the changes to %1").arg(page_));
    keep->setEnabled(touched_);
    connect(keep, &QAction::triggered, this, &CompareDesk::keep_page);
    QAction* back = pages_menu_->addAction(tr("Back to %1 as it is kept").arg(page_));
    back->setEnabled(touched_);
    connect(back, &QAction::triggered, this, &CompareDesk::back_to_page);
    connect(pages_menu_->addAction(tr("Order of the lanes …")), &QAction::triggered, this, &CompareDesk::order_lanes);
    connect(pages_menu_->addAction(tr("Keep these lanes as a page …")), &QAction::triggered, this, [this] {
        const QString name = QInputDialog::getText(this, tr("A page of your own"), tr("Name of the page")).trimmed();
        if (name.isEmpty()) return;
        if (const auto saved = pages_.save(name, canvas_->lanes()); !saved) return workspace_.tell(saved.error());
        show_page(name);
    });
    connect(pages_menu_->addAction(tr("Write this page to a file …")), &QAction::triggered, this,
            &CompareDesk::write_page_file);
    connect(pages_menu_->addAction(tr("Read a page from a file …")), &QAction::triggered, this,
            &CompareDesk::read_page_file);
    QAction* forget = pages_menu_->addAction(pages_.is_ready_made(page_) ? tr("%1 as it came").arg(page_)
                                                                         : tr("Remove the page %1").arg(page_));
    forget->setEnabled(pages_.is_changed(page_));
    connect(forget, &QAction::triggered, this, [this] {
        const QString name = page_;
        if (const auto done = pages_.forget(name); !done) return workspace_.tell(done.error());
        show_page(pages_.is_ready_made(name) ? name : Pages::first());
    });
}

void CompareDesk::order_lanes() {
    QDialog dialog(this);
    dialog.setObjectName(QStringLiteral("order-lanes"));
    dialog.setWindowTitle(tr("Order of the lanes"));
    auto* column = new QVBoxLayout(&dialog);
    column->addWidget(new PlainLabel(tr("Drag the lanes into the order you want.")));
    auto* list = new QListWidget;
    list->setDragDropMode(QAbstractItemView::InternalMove);
    list->setAccessibleName(tr("Lanes from top to bottom"));
    const auto lanes = canvas_->lanes();
    for (std::size_t i = 0; i < lanes.size(); ++i) {
        auto* item = new QListWidgetItem(shown(lanes[i].quantity).label, list);
        item->setData(Qt::UserRole, static_cast<int>(i));
    }
    column->addWidget(list);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    std::vector<Lane> ordered;
    ordered.reserve(static_cast<std::size_t>(list->count()));
    for (int row = 0; row < list->count(); ++row)
        ordered.push_back(lanes[static_cast<std::size_t>(list->item(row)->data(Qt::UserRole).toInt())]);
    canvas_->set_lanes(std::move(ordered));
}

void CompareDesk::fill_paint_menu() {
    paint_menu_->clear();
    if (workspace_.comparison().laps().empty()) return;
    const MapPaint now = map_->paint();
    const auto add = [&](QMenu* menu, const QString& text, bool on, auto act) {
        QAction* action = menu->addAction(text);
        action->setCheckable(true);
        action->setChecked(on);
        connect(action, &QAction::triggered, this, act);
        return action;
    };
    add(paint_menu_, tr("Lap colours, no channel"), now.quantity.empty(), [this] { set_paint({}); });
    // What the painted lap has: the usual ones at hand, the others a menu further.
    const std::vector<std::string> usual{
        "speed", "longitudinal_acceleration", "lateral_acceleration", "throttle", "brake_front", "gear"};
    const std::vector run{workspace_.comparison().active().run};
    const auto channels = shown_channels(run);
    const auto by = [&](QMenu* menu, const std::string& quantity) {
        add(menu, shown(quantity).label, now.quantity == quantity,
            [this, quantity] { set_paint(kept_paint(quantity)); });
    };
    for (const std::string& quantity : usual) {
        if (std::any_of(channels.begin(), channels.end(), [&](const ShownChannel& it) { return it.id == quantity; }))
            by(paint_menu_, quantity);
    }
    auto* more = paint_menu_->addMenu(tr("More channels"));
    SetMenus by_set(*paint_menu_->addMenu(tr("Formulas")));
    for (const ShownChannel& it : channels) {
        if (!it.set.empty())
            by(by_set.of(it.set), it.id);
        else if (std::find(usual.begin(), usual.end(), it.id) == usual.end())
            by(more, it.id);
    }
    paint_menu_->addSeparator();
    const auto change = [this, now](auto edit) {
        MapPaint next = now;
        edit(next);
        set_paint(next);
    };
    auto* presets = paint_menu_->addMenu(tr("Bands by preset"));
    presets->setEnabled(!now.quantity.empty());
    for (const auto& [text, bands, percentile] : {std::tuple{tr("Thirds: low, middle, high"), 3, 0.0},
                                                  {tr("Five, without the last 2 % at either end"), 5, 2.0},
                                                  {tr("Ten"), 10, 0.0}})
        add(presets, text, now.bands && now.band_count == bands && !now.limits,
            [change, bands = bands, percentile = percentile] {
                change([bands, percentile](MapPaint& next) {
                    next.bands = true;
                    next.band_count = bands;
                    next.percentile = percentile;
                    next.limits.reset();
                });
            });
    add(paint_menu_, tr("In bands"), now.bands, [change, now] {
        change([now](MapPaint& next) { next.bands = !now.bands; });
    })->setEnabled(!now.quantity.empty());
    QAction* limits = paint_menu_->addAction(tr("Limits …"));
    limits->setEnabled(!now.quantity.empty());
    connect(limits, &QAction::triggered, this, &CompareDesk::ask_paint_limits);
    paint_menu_->addSeparator();
    add(paint_menu_, tr("Lift, brake, turn-in, slowest, throttle"), map_->shows_events(),
        [this] { map_->show_events(!map_->shows_events()); });
    add(paint_menu_, tr("The view follows the range"), map_->follows_range(),
        [this] { map_->follow_range(!map_->follows_range()); });
    paint_menu_->addSeparator();
    connect(paint_menu_->addAction(tr("Turn the map left by 15°")), &QAction::triggered, this,
            [this] { map_->turn(15); });
    connect(paint_menu_->addAction(tr("Turn the map right by 15°")), &QAction::triggered, this,
            [this] { map_->turn(-15); });
    connect(paint_menu_->addAction(tr("North up")), &QAction::triggered, this, [this] { map_->north_up(); });
    connect(paint_menu_->addAction(tr("Zoom to the range")), &QAction::triggered, this, [this] { map_->fit_range(); });
}

void CompareDesk::ask_paint_limits() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    MapPaint next = map_->paint();
    if (laps.empty() || next.quantity.empty()) return;
    const Shown how = shown(next.quantity);
    const Comparison& comparison = workspace_.comparison();
    const Trace& trace = comparison.trace(comparison.active_slot(), next.quantity, Axis::distance);
    if (trace.empty() && (comparison.busy() || !comparison.ready(next.quantity)))
        return workspace_.tell(tr("%1 is still being computed.").arg(shown(next.quantity).label));
    const PaintScale scale(next, trace);
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Limits of the paint"));
    auto* form = new QFormLayout(&dialog);
    const auto box = [&](const QString& label, double low, double high, double value, const QString& unit) {
        auto* spin = new QDoubleSpinBox;
        spin->setRange(low, high);
        spin->setDecimals(2);
        spin->setValue(value);
        if (!unit.isEmpty()) spin->setSuffix(QChar(0x2009) + unit);
        form->addRow(label, spin);
        return spin;
    };
    auto* by_hand = new QCheckBox(tr("these limits, not from the samples"));
    by_hand->setChecked(next.limits.has_value());
    auto* low = box(tr("Low"), -1e6, 1e6, how.from_si(scale.limits().begin), how.unit);
    auto* high = box(tr("High"), -1e6, 1e6, how.from_si(scale.limits().end), how.unit);
    form->insertRow(0, by_hand);
    auto* share = box(tr("From the samples: leave out at either end"), 0, 20, next.percentile, QStringLiteral("%"));
    auto* bands = box(tr("Bands"), 2, 12, next.band_count, QString());
    bands->setDecimals(0);
    connect(low, &QDoubleSpinBox::valueChanged, by_hand, [by_hand] { by_hand->setChecked(true); });
    connect(high, &QDoubleSpinBox::valueChanged, by_hand, [by_hand] { by_hand->setChecked(true); });
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    form->addRow(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    next.limits.reset();
    const auto si = [&](double value) { return value * how.factor + how.offset; };
    if (by_hand->isChecked() && high->value() > low->value())
        next.limits = Interval{si(low->value()), si(high->value())};
    next.percentile = share->value();
    next.band_count = static_cast<int>(bands->value());
    set_paint(next);
}

void CompareDesk::fill_picker() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    std::vector<ChannelPicker::Entry> entries;
    const auto drawn = [&](const std::string& id) {
        const auto& lanes = canvas_->lanes();
        return std::any_of(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(id); });
    };
    const auto logged = [&](const std::string& id) -> const Channel* {
        for (const ComparedLap& it : laps.laps) {
            if (const Channel* channel = it.lap.recording->find_logged(id)) return channel;
        }
        return nullptr;
    };
    const auto offered = [&](const std::string& id) { return workspace_.comparison().offers(id); };
    // What the page wants and nobody logged: named first, with what could stand in.
    for (const std::string& wanted : quantities_of(pages_.lanes(page_))) {
        if (offered(wanted)) continue;
        ChannelPicker::Entry entry{wanted, tr("Wanted by this page, not logged here"), shown(wanted).label, {}, {}};
        entry.here = false;
        for (const std::string_view other : stand_ins(wanted)) {
            if (!offered(std::string(other))) continue;
            entry.instead = std::string(other);
            entry.label = tr("%1: %2 could stand in").arg(entry.label, shown(other).label);
            break;
        }
        entry.drawn = !entry.instead.empty() && drawn(entry.instead);
        entry.note = entry.instead.empty() ? tr("Nothing that these runs have says the same")
                                           : tr("A tick draws %1").arg(shown(entry.instead).label);
        entries.push_back(std::move(entry));
    }
    if (laps.on_track())
        for (const char* id : {"gap", "line_offset"})
            entries.push_back({id, tr("Between the laps"), shown(id).label, shown(id).unit, {}, drawn(id)});
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const ComparedLap& lap : laps.laps) runs.push_back(lap.run);
    for (const ShownChannel& it : shown_channels(runs)) {
        ChannelPicker::Entry entry{it.id, {}, shown(it.id).label, shown(it.id).unit, {}, drawn(it.id)};
        if (!it.set.empty()) {
            entry.group = tr("Formulas: %1").arg(QString::fromStdString(it.set));
        } else {
            const Quantity* known = find_quantity(it.id);
            entry.group = known == nullptr ? tr("Under their own names")
                                           : QString::fromUtf8(group_of(*known).data(),
                                                               static_cast<qsizetype>(group_of(*known).size()));
            if (const Channel* channel = logged(it.id)) {
                const double hz = channel->clock.mean_rate_hz();
                entry.rate = with_unit(QString::number(hz, 'f', hz < 9.95 ? 1 : 0), QStringLiteral("Hz"));
                entry.note = tr("“%1” in the logger").arg(QString::fromStdString(channel->name));
            }
        }
        entries.push_back(std::move(entry));
    }
    // Lists of one group come together, in the order of the quantities.
    const QString last = tr("Place and time");  // seldom drawn
    const auto first_of = [&](const QString& group) {
        if (group == last) return static_cast<std::ptrdiff_t>(entries.size());
        return std::find_if(entries.begin(), entries.end(), [&](const auto& it) { return it.group == group; }) -
               entries.begin();
    };
    std::vector<std::pair<std::ptrdiff_t, std::size_t>> order;
    for (std::size_t i = 0; i < entries.size(); ++i) order.emplace_back(first_of(entries[i].group), i);
    std::sort(order.begin(), order.end());
    std::vector<ChannelPicker::Entry> grouped;
    for (const auto& [group, i] : order) grouped.push_back(std::move(entries[i]));
    picker_->set_entries(std::move(grouped), Preferences::of_person().favourites());
}

void CompareDesk::show_picker() {
    fill_picker();
    picker_->open_at(channels_->mapToGlobal(QPoint(channels_->width(), channels_->height() + 2)));
}

void CompareDesk::toggle_lane(const std::string& quantity, bool on) {
    auto next = canvas_->lanes();
    const bool present = std::any_of(next.begin(), next.end(), [&](const Lane& lane) { return lane.shows(quantity); });
    if (present == on) return;
    if (on) {
        next.push_back({quantity, 0.9});
    } else if (!remove_channel(next, quantity)) {
        workspace_.tell(tr("The last lane stays."));
        return fill_picker();
    }
    canvas_->set_lanes(std::move(next));
    fill_picker();
}

void CompareDesk::add_findables(std::vector<Findable>& out) {
    const QStringList pages = pages_.names();
    for (const QString& name : pages) out.push_back({tr("Page"), name, {}, [this, name] { show_page(name); }});
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (laps.empty()) return;
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const ComparedLap& lap : laps.laps) runs.push_back(lap.run);
    for (const ShownChannel& it : shown_channels(runs)) {
        const Shown how = shown(it.id);
        out.push_back({it.set.empty() ? tr("Channel") : tr("Formula"),
                       how.label + (how.unit.isEmpty() ? QString() : QStringLiteral(", ") + how.unit),
                       {},
                       [this, id = it.id] { toggle_lane(id, true); }});
    }
    if (!laps.on_track()) return;
    for (const Corner& corner : laps.track().corners)
        out.push_back({tr("Corner"), QString::fromStdString(corner.title()), {}, [this, number = corner.number] {
                           go_to_corner(number);
                       }});
    for (const ComparedLap& lap : laps.laps) {
        for (const PictureNote& note : lap.run->picture_notes) {
            if (note.at_s < lap.lap.map.start_s() || note.at_s > lap.lap.map.end_s()) continue;
            out.push_back(
                {tr("Note"), QString::fromStdString(note.text), {}, [this, place = lap.lap.map.distance_at(note.at_s)] {
                     workspace_.focus().set_cursor(place);
                 }});
        }
    }
    const auto marks = workspace_.library().marks(laps.baseline().run->row.track);
    for (const Mark& mark : marks ? *marks : std::vector<Mark>())
        out.push_back({tr("Mark"), QString::fromStdString(mark.name), {}, [this, range = mark.range_m] {
                           workspace_.focus().set_range(range);
                           workspace_.focus().set_cursor(range.clamp(workspace_.focus().state().cursor_m));
                       }});
}

void CompareDesk::fill_marks_menu() {
    marks_menu_->clear();
    fill_marks();
    if (workspace_.comparison().laps().empty()) return;
    marks_menu_->addSeparator();
    fill_notes_menu(*marks_menu_->addMenu(tr("Notes on the pictures")));
}

void CompareDesk::fill_marks() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (!laps.on_track()) {
        marks_menu_->addAction(tr("Ranges are kept of a track; these runs are shown over time"))->setEnabled(false);
        return;
    }
    const TrackId track = laps.baseline().run->row.track;
    // What is seen: on the run axis the stretch of A's lap that is in view.
    Interval range = workspace_.comparison().range_m();
    if (workspace_.comparison().axis() == Axis::run) {
        const LapMap& map = laps.baseline().lap.map;
        const Interval view = workspace_.comparison().view();
        range = {map.distance_at(view.begin + map.start_s()), map.distance_at(view.end + map.start_s())};
    }
    QAction* save = marks_menu_->addAction(tr("Save this range (%1) …").arg(stretch_text(range)));
    save->setEnabled(range.length() >= 1);
    connect(save, &QAction::triggered, this, [this, track, range] {
        bool fine = false;
        const QString name = QInputDialog::getText(this, tr("Save range as mark"), tr("Name of the mark"),
                                                   QLineEdit::Normal, tr("Range %1").arg(stretch_text(range)), &fine);
        if (!fine || name.trimmed().isEmpty()) return;
        auto id = std::make_shared<MarkId>();
        workspace_.edit(
            tr("save mark %1").arg(name),
            [this, track, range, name, id]() -> Result<void> {
                const auto added = workspace_.library().add_mark(track, name.trimmed().toStdString(), range);
                if (!added) return pass_on(added.error());
                *id = *added;
                return {};
            },
            [this, id] { return workspace_.library().remove_mark(*id); }, Change::marks);
    });
    const auto marks = workspace_.shown(workspace_.library().marks(track));
    if (marks.empty()) return;
    marks_menu_->addSeparator();
    auto* remove_menu = new QMenu(tr("Remove"), marks_menu_);
    for (const Mark& mark : marks) {
        const QString name = QString::fromStdString(mark.name);
        connect(marks_menu_->addAction(name), &QAction::triggered, this, [this, mark] {
            workspace_.focus().set_range(mark.range_m);
            workspace_.focus().set_cursor(mark.range_m.clamp(workspace_.focus().state().cursor_m));
        });
        connect(remove_menu->addAction(name), &QAction::triggered, this, [this, mark] {
            auto id = std::make_shared<MarkId>(mark.id);
            workspace_.edit(
                tr("remove mark %1").arg(QString::fromStdString(mark.name)),
                [this, id] { return workspace_.library().remove_mark(*id); },
                [this, id, mark]() -> Result<void> {
                    const auto added = workspace_.library().add_mark(mark.track, mark.name, mark.range_m);
                    if (!added) return pass_on(added.error());
                    *id = *added;
                    return {};
                },
                Change::marks);
        });
    }
    marks_menu_->addMenu(remove_menu);
}

}  // namespace rendak::app
