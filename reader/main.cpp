// Reads one HDF5 file in a process of its own (core/recording/reader_process.h). Started by the other programs only.
#include <cstdlib>
#include <iostream>

#include "core/recording/reader_process.h"

int main(int count, char** arguments) {
    if (count != 2) {
        std::cerr << "rendak-reader is started by Rendak to read a recording; it does nothing by itself.\n";
        return 2;
    }
    // Leaves at once: the structures of a hostile file are not worth taking down in order.
    std::_Exit(rendak::run_reader(std::strtoull(arguments[1], nullptr, 10)));
}
