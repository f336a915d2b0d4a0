#include "app/desks/compare/channel_picker.h"

#include <QApplication>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QScreen>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/plot/trace_canvas.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int id_role = Qt::UserRole;

/// Every word that was typed is in the name, the id, the unit or the group.
bool fits(const ChannelPicker::Entry& entry, const QStringList& words) {
    const QString all = entry.label + u' ' + text_of(entry.id) + u' ' + entry.unit + u' ' + entry.group;
    return std::all_of(words.begin(), words.end(),
                       [&](const QString& word) { return all.contains(word, Qt::CaseInsensitive); });
}

/// Channels that are dragged into lanes.
class DraggedChannels : public QTreeWidget {
  protected:
    [[nodiscard]] QMimeData* mimeData(const QList<QTreeWidgetItem*>& items) const override {
        auto* dragged = new QMimeData;
        for (const QTreeWidgetItem* item : items) {
            const QString id = item->data(0, id_role).toString();
            if (!id.isEmpty()) dragged->setData(QLatin1String(channel_mime), id.toUtf8());
        }
        return dragged;
    }
    [[nodiscard]] QStringList mimeTypes() const override { return {QLatin1String(channel_mime)}; }
};

}  // namespace

ChannelPicker::ChannelPicker(QWidget* parent) : QFrame(parent, Qt::Popup) {
    setProperty("role", QStringLiteral("panel"));
    setObjectName(QStringLiteral("channel-picker"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(6);
    filter_ = new QLineEdit;
    filter_->setPlaceholderText(tr("Find a channel"));
    filter_->setAccessibleName(tr("Find a channel"));
    filter_->setClearButtonEnabled(true);
    filter_->installEventFilter(this);
    column->addWidget(filter_);
    list_ = new DraggedChannels;
    list_->setDragEnabled(true);
    list_->setObjectName(QStringLiteral("channels"));
    list_->setAccessibleName(tr("Channels that can have a lane"));
    list_->setColumnCount(column_count);
    list_->setHeaderLabels({tr("Channel"), tr("Unit"), tr("Rate"), tr("Star")});
    list_->setRootIsDecorated(false);
    list_->setIndentation(10);
    list_->setUniformRowHeights(true);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(name, QHeaderView::Stretch);
    for (const int fixed : {unit, rate, star}) list_->header()->setSectionResizeMode(fixed, QHeaderView::Fixed);
    list_->setColumnWidth(unit, 62);
    list_->setColumnWidth(rate, 62);
    list_->setColumnWidth(star, 40);
    list_->installEventFilter(this);
    column->addWidget(list_, 1);
    foot_ = new PlainLabel;
    foot_->setFont(small_font());
    foot_->setWordWrap(true);
    column->addWidget(foot_);
    connect(filter_, &QLineEdit::textChanged, this, &ChannelPicker::fill);
    connect(list_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int at) {
        if (filling_ || at != name) return;
        // Later: who hears it fills the list anew, and the item is still in use here.
        const std::string id = item->data(0, id_role).toString().toStdString();
        const bool on = item->checkState(name) == Qt::Checked;
        QMetaObject::invokeMethod(
            this, [this, id, on] { Q_EMIT toggled(id, on); }, Qt::QueuedConnection);
    });
    connect(list_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item, int at) {
        if (at == star) toggle_star(item);
    });
}

void ChannelPicker::set_entries(std::vector<Entry> entries, QStringList favourites) {
    entries_ = std::move(entries);
    favourites_ = std::move(favourites);
    fill();
}

void ChannelPicker::open_at(QPoint bottom_right) {
    const QRect screen = QApplication::primaryScreen()->availableGeometry();
    const int height_px = std::clamp(screen.bottom() - bottom_right.y() - 8, 240, 560);
    setGeometry(std::max(0, bottom_right.x() - 380), bottom_right.y(), 380, height_px);
    show();
    filter_->setFocus();
    filter_->selectAll();
}

void ChannelPicker::add_item(QTreeWidgetItem* group, const Entry& entry) {
    auto* item = new QTreeWidgetItem(group);
    item->setText(name, entry.label);
    item->setText(unit, entry.unit);
    item->setText(rate, entry.rate);
    item->setTextAlignment(rate, Qt::AlignRight | Qt::AlignVCenter);
    item->setData(0, id_role, text_of(entry.here ? entry.id : entry.instead));
    item->setToolTip(name, entry.note.isEmpty() ? entry.label : entry.note);
    const bool can = entry.here || !entry.instead.empty();
    item->setFlags(can ? Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable : Qt::ItemIsSelectable);
    if (can) item->setCheckState(name, entry.drawn ? Qt::Checked : Qt::Unchecked);
    if (!entry.here) return;
    const bool kept = favourites_.contains(text_of(entry.id));
    item->setText(star, kept ? QStringLiteral("★") : QStringLiteral("☆"));
    item->setTextAlignment(star, Qt::AlignCenter);
    item->setToolTip(star, kept ? tr("Take it from the top of the list (F)") : tr("Keep it at the top (F)"));
}

void ChannelPicker::fill() {
    filling_ = true;
    const QTreeWidgetItem* current = list_->currentItem();
    const QString was = current == nullptr ? QString() : current->data(0, id_role).toString(),
                  in = current == nullptr || current->parent() == nullptr ? QString() : current->parent()->text(0);
    list_->clear();
    const QStringList words = filter_->text().split(u' ', Qt::SkipEmptyParts);
    std::vector<std::pair<QString, QTreeWidgetItem*>> groups;
    const auto group_of = [&](const QString& title) {
        for (const auto& [known, item] : groups) {
            if (known == title) return item;
        }
        auto* item = new QTreeWidgetItem(list_, {title});
        item->setFlags(Qt::ItemIsEnabled);
        item->setFont(0, body_font(true));
        item->setFirstColumnSpanned(true);
        item->setExpanded(true);
        groups.emplace_back(title, item);
        return item;
    };
    int count = 0, lacking = 0;
    for (const Entry& entry : entries_) {
        if (fits(entry, words) && entry.here && favourites_.contains(text_of(entry.id)))
            add_item(group_of(tr("At hand")), entry);
    }
    for (const Entry& entry : entries_) {
        if (!fits(entry, words)) continue;
        add_item(group_of(entry.group), entry);
        entry.here ? ++count : ++lacking;
    }
    for (int g = 0; g < list_->topLevelItemCount(); ++g) {
        QTreeWidgetItem* group = list_->topLevelItem(g);
        for (int i = 0; i < group->childCount(); ++i) {
            QTreeWidgetItem* item = group->child(i);
            if (!was.isEmpty() && item->data(0, id_role).toString() == was && group->text(0) == in)
                list_->setCurrentItem(item);
        }
    }
    QString text = count == 0 ? tr("No channel of these runs is called so.")
                              : counted(count, tr("channel"), tr("channels")) + u'.';
    if (lacking > 0) text += u' ' + tr("%1 that this page wants: not logged here.").arg(lacking);
    foot_->setText(text);
    filling_ = false;
}

void ChannelPicker::toggle(QTreeWidgetItem* item) {
    if (item == nullptr || !item->flags().testFlag(Qt::ItemIsUserCheckable)) return;
    item->setCheckState(name, item->checkState(name) == Qt::Checked ? Qt::Unchecked : Qt::Checked);
}

void ChannelPicker::toggle_star(QTreeWidgetItem* item) {
    if (item == nullptr || item->text(star).isEmpty()) return;
    const QString id = item->data(0, id_role).toString();
    if (favourites_.contains(id))
        favourites_.removeAll(id);
    else
        favourites_ << id;
    Q_EMIT favourites_changed(favourites_);
    fill();
}

/// Down goes from what is typed into the list, Enter and Space tick, F keeps.
bool ChannelPicker::eventFilter(QObject* object, QEvent* event) {
    // The desk below has keys of its own; while the list is open they are the list's.
    if (event->type() == QEvent::ShortcutOverride) {
        event->accept();
        return true;
    }
    if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(object, event);
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (object == filter_ && (key == Qt::Key_Down || key == Qt::Key_Return || key == Qt::Key_Enter)) {
        for (int g = 0; g < list_->topLevelItemCount(); ++g) {
            if (list_->topLevelItem(g)->childCount() == 0) continue;
            const bool on_one = list_->currentItem() != nullptr && list_->currentItem()->parent() != nullptr;
            if (!on_one || key != Qt::Key_Down) list_->setCurrentItem(list_->topLevelItem(g)->child(0));
            break;
        }
        if (key != Qt::Key_Down) toggle(list_->currentItem());
        list_->setFocus();
        return true;
    }
    if (object == list_ && (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Space)) {
        toggle(list_->currentItem());
        return true;
    }
    if (object == list_ && key == Qt::Key_F) {
        toggle_star(list_->currentItem());
        return true;
    }
    return QFrame::eventFilter(object, event);
}

}  // namespace rendak::app
