#include "app/theme/film_colours.h"

namespace rendak::app {

const FilmColours& film_colours() {
    static const FilmColours colours{QColor(16, 24, 28, 190),   QColor(250, 248, 242), QColor(190, 196, 196),
                                     QColor(250, 248, 242, 90), QColor(96, 200, 160),  QColor(240, 120, 90)};
    return colours;
}

}  // namespace rendak::app
