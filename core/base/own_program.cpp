#include "core/base/own_program.h"

namespace rendak {

std::filesystem::path own_program(const char* name) {
    namespace fs = std::filesystem;
    std::error_code code;
    const fs::path own = fs::read_symlink("/proc/self/exe", code);
    for (const fs::path& place :
         {own.parent_path() / name, own.parent_path().parent_path() / "lib" / "rendak" / name}) {
        if (fs::exists(place, code)) return place;
    }
    return {};
}

}  // namespace rendak
