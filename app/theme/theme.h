#pragma once

#include <QColor>
#include <QFont>
#include <QString>
#include <array>
#include <vector>

namespace rendak::app {

/// The look's tokens. This folder is the only place where a colour is written.
struct Theme {
    QColor paper, panel, rule, grid, ink, mute, rail, on_rail, on_rail_mute, accent, on_accent, range, lost, won, track,
        on_lap;
    std::array<QColor, 8> laps;

    [[nodiscard]] const QColor& lap(int slot) const { return laps[static_cast<std::size_t>(slot) % laps.size()]; }
    /// Of channels of a lap alone: quiet neighbours of the lap colours, which no lap has.
    [[nodiscard]] QColor channel(std::size_t place) const;
};

[[nodiscard]] const Theme& light_theme();
[[nodiscard]] const Theme& garage_theme();

/// The theme in force. Widgets read it when they paint, so a change needs only a repaint.
[[nodiscard]] const Theme& theme();
[[nodiscard]] bool is_garage();
/// While one lives, its thread paints in ink on white paper, whatever the theme of the window.
class OnWhitePaper {
  public:
    OnWhitePaper();
    ~OnWhitePaper();
    OnWhitePaper(const OnWhitePaper&) = delete;
    OnWhitePaper& operator=(const OnWhitePaper&) = delete;
};
/// Sets palette and style sheet of the application.
void apply_theme(bool garage);

/// Loads the shipped fonts (Noto Sans, Noto Sans Mono); call once after the application object exists.
void load_fonts();

/// Body 11 px, secondary 10 px, numbers 12 px bold, headline 16 px bold.
[[nodiscard]] QFont body_font(bool bold = false);
[[nodiscard]] QFont small_font(bool bold = false);
[[nodiscard]] QFont number_font();
[[nodiscard]] QFont headline_font();
/// Of formulas as they are typed: every sign in a place of its own, brackets told apart.
[[nodiscard]] QFont formula_font();

/// Scales to paint a channel with, 0 … 1. The lightness of the one-sided scale rises all the way, the two-sided one
/// goes from blue over grey to orange: both can be read with the common kinds of colour blindness.
[[nodiscard]] QColor one_sided_scale(double share);
[[nodiscard]] QColor two_sided_scale(double share);

/// "A" … "H".
[[nodiscard]] QString slot_letter(int slot);

/// The nearest colour to a wished one that is seen on the panels of both themes (contrast of 3 at least) and is told
/// from `others` by people with the common kinds of colour blindness; the wish itself where it is.
[[nodiscard]] QColor nearest_that_works(const QColor& wished, const std::vector<QColor>& others);
/// Why a wish does not work: what it cannot be told from, or that it is not seen; empty when it does.
enum class ColourFault { none, not_seen, like_another };
[[nodiscard]] ColourFault colour_fault(const QColor& colour, const std::vector<QColor>& others);
/// A colour as people with a kind of colour blindness see it.
enum class Sight { usual, no_red, no_green, no_blue };
[[nodiscard]] QColor as_seen(const QColor& colour, Sight sight);
/// How different two colours look: CIE 1976, about 2 is just seen.
[[nodiscard]] double colour_difference(const QColor& a, const QColor& b);

/// WCAG 2.1 contrast ratio of two colours, 1 … 21.
[[nodiscard]] double contrast(const QColor& a, const QColor& b);

inline constexpr double lap_trace_width_px = 1.6;

}  // namespace rendak::app
