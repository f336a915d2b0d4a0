#include "app/theme/theme.h"

#include "app/theme/style.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <cmath>

// Resources of a static library must be named once, outside any namespace.
static void name_resources() {
    Q_INIT_RESOURCE(assets);
}

namespace rendak::app {
namespace {

bool garage_in_force = false;
thread_local bool on_white_paper = false;

QColor colour(const char* text) {
    return QColor(QLatin1String(text));
}

QFont font_of(int pixels, bool bold) {
    QFont font(QStringLiteral("Noto Sans"));
    font.setPixelSize(pixels);
    font.setBold(bold);
    return font;
}

QString style_sheet(const Theme& t) {
    QString sheet = QStringLiteral(
        "QWidget { color: @ink; }"
        "QMainWindow, QDialog { background: @paper; }"
        "QToolTip { background: @panel; color: @ink; border: 1px solid @rule; padding: 4px; }"
        "QPushButton, QToolButton { background: @panel; border: 1px solid @rule; border-radius: 4px; padding: 4px "
        "10px; }"
        "QPushButton:hover, QToolButton:hover { border-color: @accent; }"
        "QPushButton:focus, QToolButton:focus { border: 1px solid @accent; }"
        "QPushButton:checked, QToolButton:checked { background: @ink; color: @panel; }"
        "QPushButton:disabled, QToolButton:disabled { color: @mute; }"
        "QPushButton[compact=\"true\"], QToolButton[compact=\"true\"] { padding: 4px 5px; }"
        "QPushButton[tab=\"true\"] { padding: 2px 5px; border-color: transparent; background: transparent; color: "
        "@mute; }"
        "QPushButton[tab=\"true\"]:checked { background: transparent; color: @ink; font-weight: bold; border: 0; "
        "border-bottom: 2px solid @accent; border-radius: 0; }"
        "QPushButton[primary=\"true\"] { background: @accent; color: @onaccent; border-color: @accent; font-weight: "
        "bold; }"
        "QToolButton::menu-indicator { image: none; }"
        "QComboBox::drop-down { border: 0; width: 20px; }"
        "QAbstractSpinBox::up-button, QAbstractSpinBox::down-button { border: 0; width: 16px; }"
        "QDateTimeEdit::drop-down { border: 0; width: 20px; }"
        "QComboBox::down-arrow, QDateTimeEdit::down-arrow, QAbstractSpinBox::down-arrow { image: "
        "url(:/icons/down.svg); "
        "width: 10px; height: 10px; }"
        "QAbstractSpinBox::up-arrow { image: url(:/icons/up.svg); width: 10px; height: 10px; }"
        "QCheckBox::indicator, QAbstractItemView::indicator { width: 12px; height: 12px; border: 1px solid @mute; "
        "border-radius: 3px; background: @panel; }"
        "QCheckBox::indicator:checked, QAbstractItemView::indicator:checked { background: @accent; border-color: "
        "@accent; "
        "image: url(:/icons/@check.svg); }"
        "QCheckBox::indicator:disabled, QAbstractItemView::indicator:disabled { border-color: @rule; }"
        "QCheckBox:focus { color: @accent; }"
        "QTabWidget::pane { border: 0; border-top: 1px solid @rule; }"
        "QTabBar { background: @paper; }"
        "QTabBar::tab { background: transparent; color: @mute; padding: 5px 12px; border: 0; border-bottom: 2px solid "
        "transparent; }"
        "QTabBar::tab:selected { color: @ink; font-weight: bold; border-bottom: 2px solid @accent; }"
        "QTabBar::tab:hover { color: @ink; }"
        "QTabBar::tab:focus { border-bottom: 2px solid @ink; }"
        "QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }"
        "QListWidget { background: @panel; border: 1px solid @rule; border-radius: 4px; }"
        "QLineEdit, QComboBox, QAbstractSpinBox, QPlainTextEdit { background: @panel; border: 1px solid @rule; "
        "border-radius: 4px; "
        "padding: 4px 6px;"
        " selection-background-color: @accent; selection-color: @onaccent; }"
        "QLineEdit:focus, QPlainTextEdit:focus { border-color: @accent; }"
        "QTreeView, QTableView { background: @panel; alternate-background-color: @panel; border: 1px solid @rule;"
        " border-radius: 4px; gridline-color: @grid; selection-background-color: @range; selection-color: @ink; "
        "outline: 0; }"
        "QTreeView::item, QTableView::item { padding: 3px 4px; border-bottom: 1px solid @grid; }"
        "QTreeView::item:selected, QTableView::item:selected { background: @range; color: @ink; }"
        "QHeaderView { background: @panel; }"
        "QHeaderView::section { background: @panel; color: @mute; border: 0; border-bottom: 1px solid @rule; padding: "
        "4px; }"
        "QMenu { background: @panel; border: 1px solid @rule; padding: 4px; }"
        "QMenu::item { padding: 4px 24px 4px 20px; border-radius: 4px; }"
        "QMenu::item:selected { background: @range; color: @ink; }"
        "QMenu::item:disabled { color: @mute; }"
        "QScrollBar:vertical { background: @panel; width: 10px; } QScrollBar:horizontal { background: @panel; height: "
        "10px; }"
        "QScrollBar::handle { background: @rule; border-radius: 4px; min-height: 24px; min-width: 24px; }"
        "QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }"
        "QSplitter::handle { background: @paper; }"
        "QProgressBar { background: @grid; border: 0; border-radius: 4px; height: 8px; text-align: center; }"
        "QProgressBar::chunk { background: @accent; border-radius: 4px; }"
        "QLabel[role=\"mute\"] { color: @mute; }"
        "QFrame[role=\"panel\"] { background: @panel; border: 1px solid @rule; border-radius: 4px; }");
    sheet.replace(QLatin1String("@check"),
                  &t == &garage_theme() ? QStringLiteral("check-dark") : QStringLiteral("check"));
    const std::pair<const char*, QColor> tokens[] = {
        {"@ink", t.ink},   {"@paper", t.paper}, {"@panel", t.panel},        {"@rule", t.rule},    {"@grid", t.grid},
        {"@mute", t.mute}, {"@range", t.range}, {"@onaccent", t.on_accent}, {"@accent", t.accent}};
    for (const auto& [name, value] : tokens) sheet.replace(QLatin1String(name), value.name());
    return sheet;
}

}  // namespace

const Theme& light_theme() {
    static const Theme tokens{colour("#F7F3EA"),
                              colour("#FFFDF8"),
                              colour("#DDD3C0"),
                              colour("#ECE4D5"),
                              colour("#1F2A30"),
                              colour("#6B6558"),
                              colour("#22353C"),
                              colour("#FFFDF8"),
                              colour("#B9C4C6"),
                              colour("#0E7C86"),
                              colour("#FFFFFF"),
                              colour("#F1E3BF"),
                              colour("#B4690E"),
                              colour("#1E8A78"),
                              colour("#EDE3CC"),
                              colour("#FFFFFF"),
                              {colour("#16324F"), colour("#E0562B"), colour("#0E8F7E"), colour("#8A3B7C"),
                               colour("#B8860B"), colour("#5B6B2F"), colour("#3F6FB5"), colour("#7D1F2E")}};
    return tokens;
}

const Theme& garage_theme() {
    static const Theme tokens{colour("#171D20"),
                              colour("#1F272B"),
                              colour("#3A464B"),
                              colour("#2C363A"),
                              colour("#EDE8DC"),
                              colour("#A9A493"),
                              colour("#0F1416"),
                              colour("#EDE8DC"),
                              colour("#94A0A2"),
                              colour("#3DB8C2"),
                              colour("#0F1416"),
                              colour("#3B3520"),
                              colour("#E8A24A"),
                              colour("#4FC3AD"),
                              colour("#333B38"),
                              colour("#0F1416"),
                              {colour("#A9CDF2"), colour("#FF8A5C"), colour("#43CDB8"), colour("#C77BE0"),
                               colour("#E6C04D"), colour("#A9C267"), colour("#6F9CE6"), colour("#EE8383")}};
    return tokens;
}

OnWhitePaper::OnWhitePaper() {
    on_white_paper = true;
}

OnWhitePaper::~OnWhitePaper() {
    on_white_paper = false;
}

const Theme& theme() {
    static const Theme printed = [] {
        Theme out = light_theme();
        out.paper = out.panel = Qt::white;
        return out;
    }();
    if (on_white_paper) return printed;
    return garage_in_force ? garage_theme() : light_theme();
}

bool is_garage() {
    return garage_in_force;
}

void apply_theme(bool garage) {
    garage_in_force = garage;
    const Theme& t = theme();
    QPalette palette;
    palette.setColor(QPalette::Window, t.paper);
    palette.setColor(QPalette::WindowText, t.ink);
    palette.setColor(QPalette::Base, t.panel);
    palette.setColor(QPalette::AlternateBase, t.panel);
    palette.setColor(QPalette::Text, t.ink);
    palette.setColor(QPalette::Button, t.panel);
    palette.setColor(QPalette::ButtonText, t.ink);
    palette.setColor(QPalette::Highlight, t.range);
    palette.setColor(QPalette::HighlightedText, t.ink);
    palette.setColor(QPalette::ToolTipBase, t.panel);
    palette.setColor(QPalette::ToolTipText, t.ink);
    palette.setColor(QPalette::PlaceholderText, t.mute);
    palette.setColor(QPalette::Link, t.accent);
    palette.setColor(QPalette::LinkVisited, t.accent);
    qApp->setStyle(new Style);
    qApp->setPalette(palette);
    qApp->setFont(body_font());
    qApp->setStyleSheet(style_sheet(t));
}

void load_fonts() {
    name_resources();
    for (const auto* file :
         {":/fonts/NotoSans-Regular.ttf", ":/fonts/NotoSans-Bold.ttf", ":/fonts/NotoSansMono-Regular.ttf"}) {
        QFontDatabase::addApplicationFont(QString::fromLatin1(file));
    }
}

QFont body_font(bool bold) {
    return font_of(11, bold);
}
QFont small_font(bool bold) {
    return font_of(10, bold);
}
QFont number_font() {
    return font_of(12, true);
}
QFont formula_font() {
    QFont font(QStringLiteral("Noto Sans Mono"));
    font.setPixelSize(14);
    return font;
}
QFont headline_font() {
    return font_of(16, true);
}

namespace {

QColor between(std::initializer_list<const char*> stops, double share) {
    const auto n = static_cast<double>(stops.size() - 1);
    const double at = std::clamp(share, 0.0, 1.0) * n;
    const auto k = std::min(static_cast<std::size_t>(at), stops.size() - 2);
    const QColor a = colour(*(stops.begin() + k)), b = colour(*(stops.begin() + k + 1));
    const double u = at - static_cast<double>(k);
    const auto mix = [u](int x, int y) { return static_cast<int>(std::lround(x + u * (y - x))); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

}  // namespace

QColor one_sided_scale(double share) {
    return between({"#1B2457", "#39558C", "#5F8A8B", "#A9A96B", "#EFC94C"}, share);
}

QColor two_sided_scale(double share) {
    return between({"#1F4E9C", "#7BA3CF", "#B4AFA3", "#E0925A", "#B3440F"}, share);
}

QString slot_letter(int slot) {
    return QString(QChar(u'A' + slot));
}

double contrast(const QColor& a, const QColor& b) {
    const auto luminance = [](const QColor& c) {
        const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

QColor Theme::channel(std::size_t place) const {
    // Another order than the laps', a turn of the hue and less of it; then as far from the panel as a line must be.
    constexpr std::size_t order[] = {6, 2, 4, 3, 5, 1, 7, 0};
    const QColor& near = laps[order[place % std::size(order)]];
    float hue = 0, saturation = 0, lightness = 0;
    near.getHslF(&hue, &saturation, &lightness);
    hue = std::fmod(hue + 0.06F, 1.0F);
    const bool dark_ground = panel.lightnessF() < 0.5F;
    QColor out = QColor::fromHslF(hue, saturation * 0.8F, lightness);
    for (int step = 0; step < 40 && contrast(out, panel) < 3; ++step) {
        lightness = std::clamp(lightness + (dark_ground ? 0.02F : -0.02F), 0.0F, 1.0F);
        out = QColor::fromHslF(hue, saturation * 0.8F, lightness);
    }
    return out;
}

}  // namespace rendak::app
