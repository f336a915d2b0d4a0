// Decodes and encodes films in a process of its own (core/video/film_link.h). Started by the other programs only.
#include <unistd.h>

#include <cstdlib>
#include <iostream>

#include "film/serve.h"

int main(int count, char**) {
    if (count != 1 || ::isatty(0) == 1) {
        std::cerr << "rendak-film is started by Rendak to read and write films; it does nothing by itself.\n";
        return 2;
    }
    // Leaves at once: the structures of a hostile film are not worth taking down in order.
    std::_Exit(rendak::film::serve());
}
