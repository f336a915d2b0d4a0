// What Compare gives out: pictures and data of its views.
#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QPrintDialog>
#include <QPrinter>

#include <algorithm>
#include <set>
#include <variant>

#include "app/desks/compare/compare_desk.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"

namespace rendak::app {

std::vector<ViewOut> CompareDesk::views_out() {
    std::vector<ViewOut> out;
    if (workspace_.comparison().laps().empty()) return out;
    out.push_back(canvas_->out(tr("Traces")));
    if (workspace_.comparison().laps().on_track() && side_is_shown()) out.push_back(map_->out(tr("Map")));
    if (side_is_shown()) out.push_back(beside_->out());
    return out;
}

void CompareDesk::fill_out_menu() {
    out_menu_->clear();
    const auto views = views_out();
    if (views.empty()) out_menu_->addAction(tr("Nothing to give out: pick laps first"))->setEnabled(false);
    for (const ViewOut& view : views) {
        auto* menu = out_menu_->addMenu(view.name);
        connect(menu->addAction(tr("Picture to a file …")), &QAction::triggered, this,
                [this, view] { ask_picture_file(view); });
        connect(menu->addAction(tr("Picture to the clipboard")), &QAction::triggered, this, [this, view] {
            QApplication::clipboard()->setImage(picture_of(view));
            workspace_.tell(tr("%1: the picture is in the clipboard.").arg(view.name));
        });
        connect(menu->addAction(tr("Print …")), &QAction::triggered, this, [this, view] { print_view(view); });
        if (!view.data) continue;
        menu->addSeparator();
        connect(menu->addAction(tr("Data to a file …")), &QAction::triggered, this,
                [this, view] { ask_data_file(view); });
        connect(menu->addAction(tr("Data to the clipboard")), &QAction::triggered, this, [this, view] {
            make_data(view, [this, name = view.name](const std::string& text) {
                QApplication::clipboard()->setText(QString::fromStdString(text));
                workspace_.tell(tr("%1: the data are in the clipboard, separated by commas.").arg(name));
            });
        });
    }
    if (!views.empty()) {
        auto* own = out_menu_->addMenu(tr("A window with this alone"));
        for (int kind = 0; kind < PictureWindow::kinds; ++kind) {
            const auto shows = static_cast<PictureWindow::Shows>(kind);
            connect(own->addAction(PictureWindow::name_of(shows)), &QAction::triggered, this,
                    [this, shows] { open_picture(shows); });
        }
    }
}

PictureWindow* CompareDesk::open_picture(PictureWindow::Shows shows) {
    auto* window = new PictureWindow(workspace_, pages_, shows, this->window());
    if (window->canvas() != nullptr) window->show_page(page_);
    window->show();
    return window;
}

QStringList CompareDesk::windows() const {
    QStringList out;
    for (const auto* it : window()->findChildren<PictureWindow*>(QString(), Qt::FindDirectChildrenOnly)) {
        if (it->isVisible()) out << it->state();
    }
    return out;
}

void CompareDesk::open_windows(const QStringList& windows) {
    for (const QString& state : windows) PictureWindow::opened(workspace_, pages_, state, window());
}

void CompareDesk::ask_picture_file(const ViewOut& view) {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Picture: %1").arg(view.name), view.name + QStringLiteral(".png"), tr("Pictures (*.png *.svg *.pdf)"));
    if (file.isEmpty()) return;
    const auto told = [this, name = view.name, file](const Result<void>& done) {
        if (!done) return workspace_.tell(done.error());
        workspace_.tell(tr("%1 is written to %2.").arg(name, file));
    };
    if (!file.endsWith(QStringLiteral(".png"), Qt::CaseInsensitive))
        return told(write_picture(view, file.toStdString()));
    // Painting needs the window; packing the pixels does not.
    giving_out_.run<std::monostate>(
        tr("Write %1").arg(file),
        [image = picture_of(view), file](const JobContext&) -> Result<std::monostate> {
            if (auto done = write_png(image, file.toStdString()); !done) return pass_on(done.error());
            return std::monostate{};
        },
        [told](const Result<std::monostate>& done) {
            told(done ? Result<void>() : Result<void>(pass_on(done.error())));
        });
}

void CompareDesk::make_data(const ViewOut& view, const std::function<void(const std::string&)>& then) {
    const DataWork work = view.data();
    if (!work) return workspace_.tell(tr("There is nothing in %1 to write.").arg(view.name));
    giving_out_.run<std::string>(tr("Data of %1").arg(view.name), work, [this, then](const Result<std::string>& text) {
        text ? then(*text) : workspace_.tell(text.error());
    });
}

void CompareDesk::ask_data_file(const ViewOut& view) {
    const QString file = QFileDialog::getSaveFileName(this, tr("Data: %1").arg(view.name),
                                                      view.name + QStringLiteral(".csv"), tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    make_data(view, [this, name = view.name, file](const std::string& text) {
        if (const auto done = write_file(file.toStdString(), text); !done) return workspace_.tell(done.error());
        workspace_.tell(tr("%1 is written to %2.").arg(name, file));
    });
}

void CompareDesk::print_view(const ViewOut& view) {
    QPrinter printer(QPrinter::HighResolution);
    printer.setPageOrientation(QPageLayout::Landscape);
    printer.setDocName(view.name);
    QPrintDialog dialog(&printer, this);
    if (dialog.exec() != QDialog::Accepted) return;
    QPainter painter(&printer);
    // As large as the page allows, in the picture's shape.
    const QRectF page = printer.pageRect(QPrinter::DevicePixel);
    const double factor = std::min(page.width() / view.size.width(), page.height() / view.size.height());
    painter.scale(factor, factor);
    view.paint(painter, view.size);
    workspace_.tell(tr("%1 went to the printer.").arg(view.name));
}

void CompareDesk::ask_picture_note(bool on_map) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (laps.empty()) return;
    const std::size_t lane = canvas_->lane_at_hand();
    const std::string quantity =
        on_map || lane >= canvas_->lanes().size() ? std::string() : canvas_->lanes()[lane].quantity;
    const QString text = QInputDialog::getText(
        this, tr("A note on the picture"),
        quantity.empty()
            ? tr("On the map at the cursor, of lap %1:").arg(slot_letter(workspace_.comparison().active_slot()))
            : tr("On the trace of %1 at the cursor, of lap %2:")
                  .arg(shown(quantity).label, slot_letter(workspace_.comparison().active_slot())));
    if (!text.trimmed().isEmpty()) note_on_picture(quantity, text.trimmed());
}

void CompareDesk::note_on_picture(const std::string& quantity, const QString& text) {
    const Comparison& comparison = workspace_.comparison();
    if (comparison.laps().empty()) return;
    const RunId run = comparison.active().run->row.id;
    auto note = std::make_shared<PictureNote>();
    note->at_s = comparison.time_in_view_s(comparison.active_slot(), comparison.cursor_in_view());
    note->quantity = quantity;
    note->text = text.toStdString();
    workspace_.edit(
        tr("note \"%1\"").arg(text),
        [this, run, note]() -> Result<void> {
            const auto added = workspace_.library().add_picture_note(run, *note);
            if (!added) return pass_on(added.error());
            note->id = *added;
            return {};
        },
        [this, note] { return workspace_.library().remove_picture_note(note->id); }, Change::papers);
}

/// Those of the runs on screen: a click goes there.
void CompareDesk::fill_notes_menu(QMenu& menu) {
    connect(menu.addAction(tr("On the trace at the cursor …\tShift+N")), &QAction::triggered, this,
            [this] { ask_picture_note(false); });
    QAction* on_map = menu.addAction(tr("On the map at the cursor …"));
    on_map->setEnabled(workspace_.comparison().laps().on_track());
    connect(on_map, &QAction::triggered, this, [this] { ask_picture_note(true); });
    menu.addSeparator();
    auto* remove = new QMenu(tr("Remove"), &menu);
    std::set<RunId> told;
    const auto& laps = workspace_.comparison().laps().laps;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (!told.insert(laps[k].run->row.id).second) continue;
        const RunId run = laps[k].run->row.id;
        for (const PictureNote& note : laps[k].run->picture_notes) {
            // The lap that it is of, where one is on screen.
            const auto on_screen = std::find_if(laps.begin(), laps.end(), [&](const ComparedLap& it) {
                return it.run->row.id == run && note.at_s >= it.lap.map.start_s() && note.at_s <= it.lap.map.end_s();
            });
            const QString where = note.quantity.empty() ? tr("map") : shown(note.quantity).label;
            const QString words =
                QStringLiteral("%1 – %2, %3")
                    .arg(QString::fromStdString(note.text), where, QString::fromStdString(laps[k].run->row.name));
            QAction* go = menu.addAction(words);
            go->setEnabled(on_screen != laps.end() || workspace_.comparison().axis() == Axis::run);
            connect(go, &QAction::triggered, this,
                    [this, note, place = on_screen == laps.end() ? 0.0 : on_screen->lap.map.distance_at(note.at_s),
                     start = laps[k].lap.map.start_s()] {
                        auto& comparison = workspace_.comparison();
                        const double at = comparison.axis() == Axis::run ? note.at_s - start : place;
                        if (!comparison.view().contains(at)) canvas_->show_all();
                        comparison.set_cursor_in_view(at);
                    });
            connect(remove->addAction(words), &QAction::triggered, this, [this, run, note] {
                workspace_.edit(
                    tr("remove note \"%1\"").arg(QString::fromStdString(note.text)),
                    [this, note] { return workspace_.library().remove_picture_note(note.id); },
                    [this, run, note]() -> Result<void> {
                        const auto added = workspace_.library().add_picture_note(run, note);
                        return added ? Result<void>() : pass_on(added.error());
                    },
                    Change::papers);
            });
        }
    }
    if (remove->isEmpty())
        delete remove;
    else
        menu.addMenu(remove);
}

}  // namespace rendak::app
