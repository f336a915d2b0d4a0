// What Compare gives out: pictures and data of its views.
#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QMenu>
#include <QPrintDialog>
#include <QPrinter>

#include "app/desks/compare/compare_desk.h"

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
        if (!view.csv) continue;
        menu->addSeparator();
        connect(menu->addAction(tr("Data to a file …")), &QAction::triggered, this,
                [this, view] { ask_data_file(view); });
        connect(menu->addAction(tr("Data to the clipboard")), &QAction::triggered, this, [this, view] {
            QApplication::clipboard()->setText(view.csv());
            workspace_.tell(tr("%1: the data are in the clipboard, separated by commas.").arg(view.name));
        });
    }
}

void CompareDesk::ask_picture_file(const ViewOut& view) {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Picture: %1").arg(view.name), view.name + QStringLiteral(".png"), tr("Pictures (*.png *.svg *.pdf)"));
    if (file.isEmpty()) return;
    if (const auto done = write_picture(view, file.toStdString()); !done) return workspace_.tell(done.error());
    workspace_.tell(tr("%1 is written to %2.").arg(view.name, file));
}

void CompareDesk::ask_data_file(const ViewOut& view) {
    const QString file = QFileDialog::getSaveFileName(this, tr("Data: %1").arg(view.name),
                                                      view.name + QStringLiteral(".csv"), tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    if (const auto done = write_data(view, file.toStdString()); !done) return workspace_.tell(done.error());
    workspace_.tell(tr("%1 is written to %2.").arg(view.name, file));
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

}  // namespace rendak::app
