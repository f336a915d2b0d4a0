// Writes the demo data into a folder: for ./start, which would else compile the whole command line for it.
//   demo_library FOLDER
#include <cstdio>

#include "demo/write_demo.h"

int main(int count, char** arguments) {
    if (count != 2) {
        std::fputs("demo_library FOLDER: writes the demo data into a library\n", stderr);
        return 2;
    }
    const auto written = rendak::demo::write_demo(arguments[1], {});
    if (written) return 0;
    std::fprintf(stderr, "%s\n", written.error().text().c_str());
    return 1;
}
