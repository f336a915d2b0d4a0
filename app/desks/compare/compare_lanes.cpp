// Pages of Compare, what is in their lanes, and how the person left the desk.
#include <QColorDialog>
#include <QFileDialog>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSplitter>
#include <QToolButton>

#include <algorithm>

#include "app/desks/compare/compare_desk.h"
#include "app/session/preferences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/signal/quantity.h"

namespace rendak::app {

void CompareDesk::show_page(const QString& name) {
    page_ = name;
    touched_ = false;
    lanes_by_hand_ = pages_.is_changed(name);
    canvas_->show_only(false);
    const auto lanes = pages_.lanes(name);
    const auto fitting = workspace_.comparison().laps().empty() ? lanes : fitting_lanes(lanes);
    set_lanes_quietly(fitting.empty() ? lanes : fitting);
    tell_missing();
    tell_page();
    Q_EMIT state_changed();
    workspace_.tell(tr("Page %1.").arg(name));
}

void CompareDesk::step_page(int step) {
    const QStringList names = pages_.names();
    const auto now = names.indexOf(page_);
    show_page(names[(now + step + names.size()) % names.size()]);
}

std::vector<Lane> CompareDesk::fitting_lanes(const std::vector<Lane>& wanted) const {
    const auto offered = [&](const std::string& quantity) { return workspace_.comparison().offers(quantity); };
    std::vector<Lane> lanes;
    for (const Lane& lane : wanted) {
        Lane here = lane;
        std::erase_if(here.more, [&](const std::string& id) { return !offered(id); });
        if (!offered(lane.quantity)) {
            if (lane.quantity == "brake_front" && offered("brake")) {
                here.quantity = "brake";
            } else if (!here.more.empty()) {
                here.quantity = here.more.front();
                here.more.erase(here.more.begin());
            } else {
                continue;
            }
        }
        lanes.push_back(std::move(here));
    }
    // With few sensors most of the work is done in speed and the two accelerations.
    if (lanes.size() < 4 && page_ == Pages::first() && !lanes_by_hand_) {
        for (const char* quantity : {"lateral_acceleration", "longitudinal_acceleration"}) {
            if (offered(quantity)) lanes.push_back({quantity, 1.2});
        }
    }
    return lanes;
}

/// What the page wants and these laps lack is named where it would stand, with what could stand in.
void CompareDesk::tell_missing() {
    if (workspace_.comparison().laps().empty()) return canvas_->set_missing({});
    const auto offered = [&](const std::string& id) { return workspace_.comparison().offers(id); };
    std::map<int, QStringList> missing;
    const auto& lanes = canvas_->lanes();
    int at = -1;
    for (const Lane& wanted : lanes_of_page()) {
        for (const std::string& id : wanted.quantities()) {
            const auto here =
                std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(id); });
            if (here != lanes.end()) at = static_cast<int>(here - lanes.begin());
            if (here != lanes.end() || offered(id)) continue;
            QString words = shown(id).label;
            for (const std::string_view other : stand_ins(id)) {
                if (!offered(std::string(other))) continue;
                words = tr("%1 (%2 could stand in)").arg(words, shown(other).label);
                break;
            }
            missing[at] << words;
        }
    }
    std::map<int, QString> words;
    for (const auto& [lane, names] : missing) words[lane] = tr("not logged: %1").arg(names.join(QStringLiteral(", ")));
    canvas_->set_missing(std::move(words));
}

void CompareDesk::ask_channel_colour(const std::string& quantity) {
    const QColor now = channel_colour(quantity).value_or(theme().channel(0));
    const QColor wished = QColorDialog::getColor(now, this, tr("Colour of %1").arg(shown(quantity).label));
    if (wished.isValid()) colour_channel(quantity, wished);
}

void CompareDesk::colour_channel(const std::string& quantity, const QColor& wished) {
    std::vector<QColor> others;
    for (const auto& [id, colour] : channel_colours()) {
        if (id != quantity) others.push_back(colour);
    }
    const QColor taken = nearest_that_works(wished, others);
    switch (colour_fault(wished, others)) {
        case ColourFault::none:
            workspace_.tell(
                tr("%1 has this colour where a lap alone is coloured by channel.").arg(shown(quantity).label));
            break;
        case ColourFault::not_seen:
            workspace_.tell(
                tr("That colour is too faint on one of the two grounds: the nearest that is seen on both was taken."));
            break;
        case ColourFault::like_another:
            workspace_.tell(
                tr("Some eyes cannot tell that colour from another channel's: the nearest that they can was taken."));
            break;
    }
    set_channel_colour(quantity, taken);
    Preferences::of_person().keep_shown();
    canvas_->show_anew();
}

void CompareDesk::set_lanes_quietly(std::vector<Lane> lanes) {
    fitting_ = true;
    canvas_->set_lanes(std::move(lanes));
    fitting_ = false;
}

void CompareDesk::lanes_touched() {
    lanes_by_hand_ = true;
    touched_lanes_ = lanes_to_keep();
    touched_ = !(touched_lanes_ == pages_.lanes(page_));
    tell_missing();
    tell_page();
    Q_EMIT state_changed();
}

/// What the page wants and these runs do not have stays wanted: behind the lane that it stood behind.
std::vector<Lane> CompareDesk::lanes_to_keep() const {
    std::vector<Lane> lanes = canvas_->lanes();
    const auto place_of = [&](const std::string& quantity) {
        return std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(quantity); });
    };
    const auto is_missing = [&](const std::string& id) {
        return !workspace_.comparison().laps().empty() && !workspace_.comparison().offers(id) &&
               place_of(id) == lanes.end();
    };
    std::string before;
    for (const Lane& wanted : lanes_of_page()) {
        Lane missing = wanted;
        std::erase_if(missing.more, [&](const std::string& id) { return !is_missing(id); });
        if (is_missing(wanted.quantity)) {
            // Where others of its lane are here, it goes back among them.
            const auto mates = std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) {
                return std::any_of(wanted.more.begin(), wanted.more.end(),
                                   [&](const std::string& id) { return lane.shows(id); });
            });
            const auto behind = place_of(before);
            if (mates != lanes.end()) {
                mates->more.insert(mates->more.begin(), mates->quantity);
                mates->quantity = wanted.quantity;
                mates->more.insert(mates->more.end(), missing.more.begin(), missing.more.end());
            } else {
                lanes.insert(behind == lanes.end() ? (before.empty() ? lanes.begin() : lanes.end()) : behind + 1,
                             missing);
            }
        } else if (const auto at = place_of(wanted.quantity); at != lanes.end()) {
            at->more.insert(at->more.end(), missing.more.begin(), missing.more.end());
        }
        before = wanted.quantity;
    }
    return lanes;
}

std::vector<Lane> CompareDesk::lanes_of_page() const {
    return touched_ ? touched_lanes_ : pages_.lanes(page_);
}

void CompareDesk::tell_page() {
    pages_button_->setText(touched_ ? tr("Pages •") : tr("Pages"));
    pages_button_->setToolTip((touched_ ? tr("%1, changed and not kept.") : tr("%1.")).arg(page_) + u' ' +
                              tr("Lanes by theme; 1 to 9, or P and Shift+P"));
}

void CompareDesk::keep_page() {
    if (const auto saved = pages_.save(page_, lanes_to_keep()); !saved) return workspace_.tell(saved.error());
    touched_ = false;
    tell_page();
    Q_EMIT state_changed();
    workspace_.tell(tr("Page %1 is kept as it is now.").arg(page_));
}

void CompareDesk::write_page_file() {
    const QString file = QFileDialog::getSaveFileName(this, tr("Write the page %1").arg(page_),
                                                      page_ + QStringLiteral(".json"), tr("Pages (*.json)"));
    if (file.isEmpty()) return;
    if (const auto done = write_page({page_, lanes_to_keep()}, file.toStdString()); !done)
        return workspace_.tell(done.error());
    workspace_.tell(tr("Page %1 is written to %2.").arg(page_, file));
}

void CompareDesk::read_page_file() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Read a page"), QString(), tr("Pages (*.json)"));
    if (!file.isEmpty()) take_page(file);
}

void CompareDesk::take_page(const QString& file) {
    const auto page = read_page(file.toStdString());
    if (!page) return workspace_.tell(page.error());
    // A page of that name is one's own: the other stands beside it.
    QString name = page->name;
    for (int i = 2; pages_.names().contains(name); ++i) name = QStringLiteral("%1 %2").arg(page->name).arg(i);
    if (const auto saved = pages_.save(name, page->lanes); !saved) return workspace_.tell(saved.error());
    show_page(name);
}

void CompareDesk::show_side(bool on) {
    halves_->widget(1)->setVisible(on);
    Q_EMIT state_changed();
}

bool CompareDesk::side_is_shown() const {
    return !halves_->widget(1)->isHidden();
}

QString CompareDesk::state() const {
    QJsonObject out{{QStringLiteral("page"), page_},
                    {QStringLiteral("side"), side_is_shown()},
                    {QStringLiteral("side_width"), halves_->sizes().value(1)},
                    {QStringLiteral("beside"), beside_->state()},
                    {QStringLiteral("by_channel"), canvas_->colours_by_channel()}};
    if (touched_) out[QStringLiteral("lanes")] = QString::fromStdString(text_of_lanes(touched_lanes_));
    return QString::fromUtf8(QJsonDocument(out).toJson(QJsonDocument::Compact));
}

void CompareDesk::restore(const QString& state) {
    const QJsonObject in = QJsonDocument::fromJson(state.toUtf8()).object();
    // Before there was more to keep, the state was the name of the page.
    const QString page = in.isEmpty() ? state : in[QStringLiteral("page")].toString();
    if (pages_.names().contains(page)) page_ = page;
    touched_lanes_ = lanes_from(in[QStringLiteral("lanes")].toString().toStdString());
    touched_ = !touched_lanes_.empty();
    halves_->widget(1)->setVisible(in[QStringLiteral("side")].toBool(true));
    if (const int width = in[QStringLiteral("side_width")].toInt(); width > 0) halves_->setSizes({1000, width});
    canvas_->colour_by_channel(in[QStringLiteral("by_channel")].toBool());
    beside_->restore(in[QStringLiteral("beside")].toString());
    show_lanes_of_page();
}

void CompareDesk::show_lanes_of_page() {
    lanes_by_hand_ = touched_ || pages_.is_changed(page_);
    set_lanes_quietly(lanes_of_page());
    tell_page();
}

}  // namespace rendak::app
