#include "app/desks/compare/picture_window.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QShortcut>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/laps/cut.h"

namespace rendak::app {
namespace {

/// What these laps have of a page's lanes.
std::vector<Lane> offered_of(const std::vector<Lane>& wanted, const Comparison& comparison) {
    std::vector<Lane> out;
    for (Lane lane : wanted) {
        std::vector<std::string> here;
        for (const std::string& id : lane.quantities()) {
            if (comparison.offers(id)) here.push_back(id);
        }
        if (here.empty()) continue;
        lane.quantity = here.front();
        lane.more.assign(here.begin() + 1, here.end());
        out.push_back(std::move(lane));
    }
    return out.empty() ? wanted : out;
}

}  // namespace

QString PictureWindow::name_of(Shows shows) {
    switch (shows) {
        case Shows::traces:
            return tr("Traces");
        case Shows::map:
            return tr("Map");
        case Shows::beside:
            return tr("Beside the traces");
    }
    return {};
}

PictureWindow::PictureWindow(Workspace& workspace, const Pages& pages, Shows shows, QWidget* parent)
    : QWidget(parent, Qt::Window), workspace_(workspace), pages_(pages), shows_(shows) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("%1 – Rendak").arg(name_of(shows)));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(4);
    switch (shows) {
        case Shows::traces:
            column->addWidget(build_traces());
            column->addWidget(canvas_, 1);
            break;
        case Shows::map:
            column->addWidget(build_map());
            column->addWidget(map_, 1);
            break;
        case Shows::beside:
            beside_ = new Beside(workspace);
            beside_->set_quantities(quantities_of(pages.lanes(Pages::first())));
            column->addWidget(beside_, 1);
            break;
    }
    add_keys();
    resize(shows == Shows::beside ? QSize(420, 620) : QSize(960, 640));
}

QWidget* PictureWindow::build_traces() {
    canvas_ = new TraceCanvas(workspace_.focus(), workspace_.comparison());
    auto* tools = new QWidget;
    auto* row = new QHBoxLayout(tools);
    row->setContentsMargins(0, 0, 0, 0);
    page_ = new QComboBox;
    page_->setAccessibleName(tr("Page"));
    page_->addItems(pages_.names());
    page_->setFocusPolicy(Qt::TabFocus);
    connect(page_, &QComboBox::textActivated, this, &PictureWindow::show_page);
    // Laps with other channels, or a page that was kept anew; lanes that somebody changed here stay.
    connect(&workspace_.comparison(), &Comparison::changed, this, [this] {
        if (canvas_->lanes() == of_page_) show_page(page_->currentText());
    });
    row->addWidget(page_);
    row->addStretch(1);
    show_page(Pages::first());
    return tools;
}

QWidget* PictureWindow::build_map() {
    map_ = new MapCanvas(workspace_.focus(), workspace_.comparison());
    auto* tools = new QWidget;
    auto* row = new QHBoxLayout(tools);
    row->setContentsMargins(0, 0, 0, 0);
    view_ = new QComboBox;
    view_->setAccessibleName(tr("How the map is seen"));
    view_->addItems({tr("Plan"), tr("Lines"), tr("Side")});
    view_->setFocusPolicy(Qt::TabFocus);
    connect(view_, &QComboBox::currentIndexChanged, this,
            [this](int at) { map_->set_view(static_cast<MapCanvas::View>(at)); });
    auto* follows = new QCheckBox(tr("follows the range"));
    connect(follows, &QCheckBox::toggled, map_, &MapCanvas::follow_range);
    auto* events = new QCheckBox(tr("what the laps do"));
    connect(events, &QCheckBox::toggled, map_, &MapCanvas::show_events);
    auto* fit = new QToolButton;
    fit->setText(tr("Fit"));
    connect(fit, &QToolButton::clicked, map_, &MapCanvas::fit);
    row->addWidget(view_);
    row->addWidget(follows);
    row->addWidget(events);
    row->addStretch(1);
    row->addWidget(fit);
    return tools;
}

void PictureWindow::add_keys() {
    const auto on = [this](const QKeySequence& key, auto act) {
        connect(new QShortcut(key, this), &QShortcut::activated, this, act);
    };
    on(QKeySequence::Close, [this] { close(); });
    if (canvas_ == nullptr) return;
    auto& comparison = workspace_.comparison();
    const auto step = [this, &comparison](double pixels) {
        if (comparison.laps().empty()) return;
        const double by = pixels * comparison.view().length() / canvas_->plot_area().width();
        comparison.set_cursor_in_view(comparison.view_limits().clamp(comparison.cursor_in_view() + by));
    };
    on(QKeySequence(Qt::Key_Left), [step] { step(-1); });
    on(QKeySequence(Qt::Key_Right), [step] { step(1); });
    on(QKeySequence(Qt::SHIFT | Qt::Key_Left), [step] { step(-20); });
    on(QKeySequence(Qt::SHIFT | Qt::Key_Right), [step] { step(20); });
    on(QKeySequence(Qt::Key_Up), [this, &comparison] { canvas_->zoom(comparison.cursor_in_view(), 0.7); });
    on(QKeySequence(Qt::Key_Down), [this, &comparison] { canvas_->zoom(comparison.cursor_in_view(), 1 / 0.7); });
    on(QKeySequence(Qt::Key_Home), [this] { canvas_->show_all(); });
    on(QKeySequence(Qt::Key_Escape), [this] { canvas_->zoom_back(); });
    on(QKeySequence(Qt::Key_I), [this] { canvas_->pin_cursor(); });
    on(QKeySequence(Qt::Key_P), [this] { show_page(page_->itemText((page_->currentIndex() + 1) % page_->count())); });
}

void PictureWindow::show_page(const QString& name) {
    const int at = page_->findText(name);
    if (at < 0) return;
    page_->setCurrentIndex(at);
    const auto lanes = offered_of(pages_.lanes(name), workspace_.comparison());
    const bool same = lanes == of_page_ && canvas_->lanes() == of_page_;
    of_page_ = lanes;
    if (!same) canvas_->set_lanes(lanes);
}

QString PictureWindow::choice() const {
    switch (shows_) {
        case Shows::traces:
            return page_->currentText();
        case Shows::map:
            return QString::number(view_->currentIndex());
        case Shows::beside:
            return beside_->state();
    }
    return {};
}

void PictureWindow::choose(const QString& choice) {
    switch (shows_) {
        case Shows::traces:
            return show_page(choice);
        case Shows::map:
            return view_->setCurrentIndex(choice.toInt());
        case Shows::beside:
            return beside_->restore(choice);
    }
}

QString PictureWindow::state() const {
    return QString::number(static_cast<int>(shows_)) + u' ' + QString::fromLatin1(saveGeometry().toBase64()) + u' ' +
           QString::fromLatin1(choice().toUtf8().toBase64());
}

PictureWindow* PictureWindow::opened(Workspace& workspace, const Pages& pages, const QString& state, QWidget* parent) {
    const QStringList parts = state.split(u' ');
    bool fine = false;
    const int kind = parts.value(0).toInt(&fine);
    if (!fine || kind < 0 || kind >= kinds || parts.size() != 3) return nullptr;
    auto* window = new PictureWindow(workspace, pages, static_cast<Shows>(kind), parent);
    window->restoreGeometry(QByteArray::fromBase64(parts[1].toLatin1()));
    window->choose(QString::fromUtf8(QByteArray::fromBase64(parts[2].toLatin1())));
    window->show();
    return window;
}

}  // namespace rendak::app
