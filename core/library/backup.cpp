#include "core/library/backup.h"

#include <algorithm>
#include <random>

#include "core/base/file_io.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;
constexpr const char* parts[] = {"recordings", "tracks", "originals"};
constexpr const char* identity_key = "library_id";

/// Two folders are backups of each other when they have this in common.
Result<std::string> identity_of(Library& library) {
    auto known = library.setting(identity_key);
    if (!known || !known->empty()) return known;
    std::random_device random;
    std::string id;
    for (int i = 0; i < 4; ++i) id += std::to_string(random()) + (i < 3 ? "-" : "");
    if (auto done = library.set_setting(identity_key, id); !done) return pass_on(done.error());
    return id;
}

bool is_inside(const fs::path& inner, const fs::path& outer) {
    std::error_code code;
    const fs::path a = fs::weakly_canonical(inner, code), b = fs::weakly_canonical(outer, code);
    return std::mismatch(b.begin(), b.end(), a.begin(), a.end()).first == b.end();
}

/// Whether this folder may take the backup.
Result<void> check_target(const fs::path& folder, const fs::path& library, const std::string& identity) {
    if (is_inside(folder, library) || is_inside(library, folder))
        return fail(ErrorCode::bad_input, "The backup and the library cannot lie in each other. Choose another folder.",
                    folder.string());
    std::error_code code;
    if (!fs::exists(folder, code)) return {};
    if (!fs::is_directory(folder, code))
        return fail(ErrorCode::bad_input, "This is a file, not a folder. Choose a folder.", folder.string());
    if (!fs::exists(folder / "library.sqlite", code)) {
        for (const auto& entry : fs::directory_iterator(folder, code)) {
            const std::string name = entry.path().filename().string();
            const bool ours = std::find(std::begin(parts), std::end(parts), name) != std::end(parts);
            if (!ours && !is_temporary_name(entry.path()))
                return fail(ErrorCode::bad_input,
                            "The folder holds other files (" + name + "). Choose a new or an empty one.",
                            folder.string());
        }
        return code ? Result<void>(pass_on(io_error("look into the folder", folder, code.value()))) : Result<void>();
    }
    const auto other = Library::open(folder, Library::Open::existing);
    if (!other) return pass_on(other.error());
    const auto its = (*other)->setting(identity_key);
    if (!its) return pass_on(its.error());
    if (*its != identity)
        return fail(ErrorCode::exists, "The folder holds another library. Choose a new or an empty one.",
                    folder.string());
    return {};
}

struct Copying {
    fs::path from, to;
    std::uint64_t size = 0;
};

/// Files that the other folder does not have yet, or not in this size.
Result<std::vector<Copying>> missing(const fs::path& from, const fs::path& to, std::size_t& already_there) {
    std::vector<Copying> out;
    for (const char* part : parts) {
        std::error_code code;
        if (!fs::exists(from / part, code)) continue;
        fs::recursive_directory_iterator at(from / part, code), end;
        for (; !code && at != end; at.increment(code)) {
            if (at->path().filename() == ".unfinished") at.disable_recursion_pending();
            std::error_code gone;
            if (!at->is_regular_file(gone) || is_temporary_name(at->path())) continue;
            const fs::path target = to / fs::relative(at->path(), from, gone);
            const std::uint64_t size = at->file_size(gone);
            if (gone) continue;  // swept away meanwhile
            std::error_code none;
            // Tracks change under the same name; all else is named by what it holds.
            const bool there = fs::file_size(target, none) == size && !none &&
                               (std::string_view(part) != "tracks" ||
                                fs::last_write_time(target, none) >= fs::last_write_time(at->path(), none));
            if (there)
                ++already_there;
            else
                out.push_back({at->path(), target, size});
        }
        if (code) return pass_on(io_error("look into the folder", from / part, code.value()));
    }
    return out;
}

Result<void> copy(const Copying& file) {
    std::error_code code;
    fs::create_directories(file.to.parent_path(), code);
    if (code) return pass_on(io_error("make the folder", file.to.parent_path(), code.value()));
    auto target = OutputFile::begin(file.to);
    if (!target) return pass_on(target.error());
    fs::copy_file(file.from, target->part(), fs::copy_options::overwrite_existing, code);
    if (code == std::errc::no_such_file_or_directory) return {};  // removed for good meanwhile
    if (code) return pass_on(io_error("copy", file.to, code.value()));
    return target->finish();
}

}  // namespace

Result<BackupDone> back_up(Library& library, const fs::path& folder, const JobContext& job) {
    const auto identity = identity_of(library);
    if (!identity) return pass_on(identity.error());
    if (auto fine = check_target(folder, library.folder(), *identity); !fine) return pass_on(fine.error());
    std::error_code code;
    fs::create_directories(folder, code);
    if (code) return pass_on(io_error("make the folder", folder, code.value()));
    BackupDone out;
    const fs::path next = folder / "library.next";
    // Once before the catalogue is copied, and once more for what came in meanwhile: it never names a file that is not
    // there.
    for (int pass = 0; pass < 2; ++pass) {
        std::size_t there = 0;
        const auto files = missing(library.folder(), folder, there);
        if (!files) return pass_on(files.error());
        if (pass == 0) out.already_there = there;
        std::uint64_t total = 1, done = 0;
        for (const Copying& file : *files) total += file.size;
        for (const Copying& file : *files) {
            if (job.stopped())
                return fail(ErrorCode::cancelled, "Cancelled. What was copied so far stays and is not copied again.",
                            folder.string());
            if (auto copied = copy(file); !copied) return pass_on(copied.error());
            ++out.copied;
            out.bytes += file.size;
            done += file.size;
            if (pass == 0) job.report(0.95 * static_cast<double>(done) / static_cast<double>(total));
        }
        if (pass == 0) {
            if (auto written = library.write_catalogue(next); !written) return pass_on(written.error());
        }
    }
    for (const char* beside : {"library.sqlite-wal", "library.sqlite-shm"}) fs::remove(folder / beside, code);
    if (auto moved = move_into_place(next, folder / "library.sqlite"); !moved) return pass_on(moved.error());
    job.report(1);
    return out;
}

Result<void> remove_library(const fs::path& folder) {
    std::error_code code;
    if (!fs::exists(folder / "library.sqlite", code))
        return fail(ErrorCode::not_found, "There is no library in this folder.", folder.string());
    for (const char* name : {"recordings", "tracks", "originals", "derived", "library.sqlite", "library.sqlite-wal",
                             "library.sqlite-shm", "writing.lock"}) {
        fs::remove_all(folder / name, code);
        if (code) return pass_on(io_error("remove", folder / name, code.value()));
    }
    fs::remove(folder, code);  // only when nothing else is in it
    return {};
}

}  // namespace rendak
