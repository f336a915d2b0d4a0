#pragma once

#include <QColor>

namespace rendak::app {

/// Of figures over a picture, which stands in any light: on a dark ground of their own, in both themes.
struct FilmColours {
    QColor ground, ink, quiet, line, throttle, brake;
};
[[nodiscard]] const FilmColours& film_colours();

}  // namespace rendak::app
