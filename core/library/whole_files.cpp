#include "core/library/whole_files.h"

#include <chrono>
#include <map>
#include <mutex>
#include <sstream>

#include "core/base/file_io.h"

namespace rendak {
namespace {

constexpr double valid_s = 24 * 3600;

struct Known {
    std::mutex mutex;
    std::map<FileState, std::string> whole;
};

Known& known() {
    static Known one;
    return one;
}

double now_s() {
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

std::string line_of(const FileState& state, const std::string& digest) {
    std::ostringstream out;
    for (const std::int64_t part : state) out << part << ' ';
    out << digest;
    return out.str();
}

}  // namespace

std::filesystem::path WholeFiles::note_of(const std::filesystem::path& file) const {
    return library_ / "derived" / (file.filename().string() + ".whole");
}

bool WholeFiles::holds(const std::filesystem::path& file, const std::string& digest, Known how) const {
    const auto state = state_of(file);
    if (!state) return false;
    {
        const std::scoped_lock lock(known().mutex);
        const auto found = known().whole.find(*state);
        if (found != known().whole.end()) return found->second == digest;
    }
    if (how == Known::in_this_process) return false;
    const auto note = read_text_file(note_of(file), 4096);
    if (!note) return false;
    const auto space = note->find(' ');
    if (space == std::string::npos || note->substr(space + 1) != line_of(*state, digest)) return false;
    const double age_s = now_s() - std::strtod(note->c_str(), nullptr);
    if (!(age_s >= 0 && age_s < valid_s)) return false;
    return true;
}

void WholeFiles::add(const std::filesystem::path& file, const std::string& digest, bool keep) const {
    const auto state = state_of(file);
    if (!state) return;
    {
        const std::scoped_lock lock(known().mutex);
        known().whole[*state] = digest;
    }
    if (!keep) return;
    // A note that cannot be written costs another look, nothing else.
    std::error_code ignored;
    std::filesystem::create_directory(library_ / "derived", ignored);
    std::ostringstream text;
    text.precision(15);
    text << now_s() << ' ' << line_of(*state, digest);
    (void)write_file(note_of(file), text.str());
}

void WholeFiles::forget() {
    const std::scoped_lock lock(known().mutex);
    known().whole.clear();
}

}  // namespace rendak
