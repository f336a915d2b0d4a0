// Reads one HDF5 file in a process of its own (core/recording/reader_process.h). Started by the other programs only.
#include <cstdlib>
#include <iostream>
#include <optional>

#include "core/recording/reader_process.h"

int main(int count, char** arguments) {
    const auto wanted = count == 4 ? rendak::wanted_of_file(arguments[2], arguments[3]) : std::nullopt;
    if (!wanted) {
        std::cerr << "rendak-reader is started by Rendak to read a recording; it does nothing by itself.\n";
        return 2;
    }
    // Leaves at once: the structures of a hostile file are not worth taking down in order.
    std::_Exit(rendak::run_reader(std::strtoull(arguments[1], nullptr, 10), *wanted));
}
