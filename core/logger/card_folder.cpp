#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/logger/logger_link.h"
#include "core/recording/formats.h"
#include "core/recording/readers.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;

class CardFolder : public LoggerLink {
  public:
    explicit CardFolder(fs::path folder) : folder_(std::move(folder)) {}

    [[nodiscard]] std::string address() const override { return folder_.string(); }

    Result<LoggerState> state(const JobContext&) override {
        std::error_code code;
        const auto space = fs::space(folder_, code);
        if (code) return pass_on(gone());
        LoggerState out;
        out.device = "Card or folder " + folder_.filename().string();
        out.free_bytes = space.available;
        out.capacity_bytes = space.capacity;
        const auto found = files();
        if (!found) return pass_on(found.error());
        out.recordings = static_cast<int>(found->size());
        return out;
    }

    Result<std::vector<LoggedFile>> list(const JobContext& job) override {
        const auto found = files();
        if (!found) return pass_on(found.error());
        std::vector<LoggedFile> out;
        for (std::size_t i = 0; i < found->size(); ++i) {
            const double n = static_cast<double>(found->size());
            const JobContext part = job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n);
            const fs::path& path = (*found)[i];
            std::error_code code;
            LoggedFile file;
            file.number = static_cast<int>(i) + 1;
            file.name = fs::relative(path, folder_, code).string();
            file.size = fs::file_size(path, code);
            if (code) return pass_on(gone());
            auto digest = sha256_of_file(path, part.part(0, 0.45));
            if (!digest) return pass_on(digest.error());
            file.sha256 = std::move(*digest);
            auto quick = file_digest(path, part.part(0.45, 0.5));
            if (!quick) return pass_on(quick.error());
            file.xxh3 = std::move(*quick);
            // Date and length stand inside; a file that cannot be read is listed all the same.
            if (const auto read = read_logged_file(path, {}, part.part(0.5, 1))) {
                file.start_unix_s = read->recording.start_unix_s;
                file.duration_s = read->recording.span_s().length();
                if (const Channel* count = read->recording.find("lap_count")) {
                    const auto laps = statistics(*count, 0, count->size());
                    if (laps.count > 0 && laps.high < 10000) file.laps = static_cast<int>(laps.high);
                }
                for (const std::string& note : read->notes) {
                    if (note.find("ends in the middle") != std::string::npos) file.complete = false;
                }
            }
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", folder_.string());
            out.push_back(std::move(file));
        }
        return out;
    }

    Result<void> read(const LoggedFile& file, std::uint64_t from, const std::function<bool(std::string_view)>& sink,
                      const JobContext& job) override {
        const auto opened = open_regular(folder_ / file.name);
        if (!opened) return pass_on(gone());
        std::string block(1U << 20, '\0');
        std::uint64_t at = from;
        while (at < file.size) {
            const ssize_t got = ::pread(opened->fd(), block.data(),
                                        std::min<std::uint64_t>(block.size(), file.size - at), static_cast<off_t>(at));
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) return pass_on(gone());
            at += static_cast<std::uint64_t>(got);
            if (job.stopped() || !sink({block.data(), static_cast<std::size_t>(got)}))
                return fail(ErrorCode::cancelled, "Cancelled.", folder_.string());
        }
        return {};
    }

    Result<void> erase(const LoggedFile& file, const JobContext& job) override {
        const fs::path path = folder_ / file.name;
        if (!is_really_here(path))
            return fail(ErrorCode::bad_input,
                        "This is a link, or leads out of the card; what it points to is not erased.", path.string());
        const auto digest = sha256_of_file(path, {job.stop, {}});
        if (!digest) return pass_on(digest.error());
        if (*digest != file.sha256)
            return fail(ErrorCode::bad_input,
                        "This file has changed since the list was read; it was not erased. Read the list again.",
                        path.string());
        std::error_code code;
        fs::remove(path, code);
        if (code) return pass_on(io_error("erase the file", path, code.value()));
        return {};
    }

    Result<double> set_clock(double, const JobContext&) override {
        return fail(ErrorCode::unsupported, "A card has no clock: connect to the logger itself to set it.",
                    folder_.string());
    }

  private:
    /// Whether a path below the card's folder is a file there, and no link anywhere on the way.
    [[nodiscard]] bool is_really_here(const fs::path& path) const {
        std::error_code code;
        const fs::path real = fs::canonical(path, code);
        if (code) return false;
        const fs::path expected = fs::canonical(folder_, code) / path.lexically_relative(folder_);
        return !code && real == expected && fs::is_regular_file(fs::symlink_status(path, code));
    }

    Result<std::vector<fs::path>> files() const {
        std::error_code code;
        std::vector<fs::path> out;
        fs::recursive_directory_iterator walk(folder_, fs::directory_options::skip_permission_denied, code);
        if (code) return pass_on(gone());
        for (; walk != fs::recursive_directory_iterator(); walk.increment(code)) {
            if (code) return pass_on(gone());
            if (walk->path().filename().string().rfind('.', 0) == 0) {
                walk.disable_recursion_pending();
                continue;
            }
            // A link on a card points at something that is not on it: it is neither listed nor ever erased.
            if (walk->is_symlink(code)) continue;
            if (walk->is_regular_file(code) && is_named_like_logged(walk->path())) out.push_back(walk->path());
            if (out.size() > 100'000)
                return fail(ErrorCode::bad_input,
                            "There are more than 100 000 logged files here; choose the card's own folder.",
                            folder_.string());
        }
        std::sort(out.begin(), out.end());
        return out;
    }
    [[nodiscard]] Error gone() const {
        return {ErrorCode::io,
                "The card or folder cannot be read any more. Was the card pulled out? Put it back and read it again; "
                "nothing was lost.",
                folder_.string()};
    }

    fs::path folder_;
};

}  // namespace

std::unique_ptr<LoggerLink> card_folder(const std::string& folder) {
    return std::make_unique<CardFolder>(folder);
}

}  // namespace rendak
