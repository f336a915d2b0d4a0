#include "core/bundle/zip_file.h"

#include <unistd.h>
#include <zip.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>

#include "core/base/file_io.h"
#include "core/base/text.h"

namespace rendak {
namespace {

constexpr std::uint64_t unpacked_without_question = 256U << 20;

Error not_readable(const std::filesystem::path& file, const std::string& why) {
    return {ErrorCode::bad_input,
            "This is no readable bundle (" + why + "). Ask for it to be written again; nothing was brought in.",
            file.string()};
}

}  // namespace

bool is_safe_zip_path(const std::string& name) {
    if (name.empty() || name.front() == '/' || name.size() > 300) return false;
    if (std::any_of(name.begin(), name.end(),
                    [](char c) { return static_cast<unsigned char>(c) < 32 || c == '\\' || c == ':'; }))
        return false;
    std::size_t begin = 0;
    while (begin <= name.size()) {
        const std::size_t end = std::min(name.find('/', begin), name.size());
        const std::string part = name.substr(begin, end - begin);
        if (part == ".." || part == "." || (part.empty() && end != name.size())) return false;
        begin = end + 1;
    }
    return true;
}

Result<ZipReader> ZipReader::open(const std::filesystem::path& file) {
    // Opened here, so that nothing but a regular file is, and with the system's own words where it cannot be.
    const auto opened = open_regular(file);
    if (!opened) return pass_on(opened.error());
    int code = 0;
    const int fd = ::dup(opened->fd());
    zip* archive = fd < 0 ? nullptr : zip_fdopen(fd, ZIP_CHECKCONS, &code);
    if (archive == nullptr) {
        if (fd >= 0) ::close(fd);
        return pass_on(not_readable(file, "it is no zip file, or damaged"));
    }
    ZipReader out(archive, file);
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    if (count > 100'000) return pass_on(not_readable(file, "it has more than 100 000 entries"));
    for (zip_int64_t i = 0; i < count; ++i) {
        const char* name = zip_get_name(archive, static_cast<zip_uint64_t>(i), ZIP_FL_ENC_GUESS);
        if (name == nullptr || !is_safe_zip_path(name)) {
            return fail(ErrorCode::bad_input,
                        "The bundle holds the path \"" + printable(name == nullptr ? "" : name) +
                            "\", which would leave its folder. It was refused whole; do not trust where it comes from.",
                        file.string());
        }
        out.names_.insert(name);
    }
    return out;
}

ZipReader::ZipReader(ZipReader&& other) noexcept
    : archive_(std::exchange(other.archive_, nullptr)),
      file_(std::move(other.file_)),
      names_(std::move(other.names_)) {}

ZipReader::~ZipReader() {
    if (archive_ != nullptr) zip_discard(archive_);
}

bool ZipReader::has(const std::string& name) const {
    return names_.contains(name);
}

Result<void> ZipReader::read(const std::string& name, std::uint64_t most, const auto& sink) const {
    zip_file* entry = zip_fopen(archive_, name.c_str(), 0);
    if (entry == nullptr) return pass_on(not_readable(file_, name + " is missing"));
    std::string block(1U << 18, '\0');
    std::uint64_t total = 0;
    for (;;) {
        const zip_int64_t got = zip_fread(entry, block.data(), block.size());
        if (got == 0) break;
        total += got > 0 ? static_cast<std::uint64_t>(got) : 0;
        if (got < 0 || total > most) {
            zip_fclose(entry);
            return pass_on(not_readable(file_, got < 0 ? name + " is damaged" : name + " is larger than it may be"));
        }
        if (auto done = sink(std::string_view(block.data(), static_cast<std::size_t>(got)), total); !done) {
            zip_fclose(entry);
            return done;
        }
    }
    // Closing checks the sum over the content.
    if (zip_fclose(entry) != 0) return pass_on(not_readable(file_, name + " is damaged"));
    return {};
}

Result<std::string> ZipReader::text(const std::string& name, std::size_t most) const {
    std::string out;
    auto done = read(name, most, [&](std::string_view bytes, std::uint64_t) -> Result<void> {
        out += bytes;
        return {};
    });
    if (!done) return pass_on(done.error());
    return out;
}

Result<void> ZipReader::extract(const std::string& name, const std::filesystem::path& to, const JobContext& job) const {
    zip_stat_t stat;
    zip_stat_init(&stat);
    if (zip_stat(archive_, name.c_str(), 0, &stat) != 0 || (stat.valid & ZIP_STAT_SIZE) == 0)
        return pass_on(not_readable(file_, name + " is missing"));
    // Samples hardly shrink; what grows a hundredfold is made to fill the disk.
    if (stat.size > unpacked_without_question &&
        ((stat.valid & ZIP_STAT_COMP_SIZE) == 0 || stat.size / 100 > stat.comp_size))
        return fail(ErrorCode::bad_input,
                    name + " would unpack to " + std::to_string(stat.size >> 20) +
                        " MB, more than a hundred times its size in the bundle. It was refused; do not trust where it "
                        "comes from.",
                    file_.string());
    std::error_code code;
    const auto space = std::filesystem::space(to.parent_path(), code);
    if (!code && space.available < stat.size) return pass_on(io_error("write the file", to, ENOSPC));
    std::FILE* out = std::fopen(to.c_str(), "wbx");
    if (out == nullptr) return pass_on(io_error("write the file", to, errno));
    auto done = read(name, stat.size, [&](std::string_view bytes, std::uint64_t total) -> Result<void> {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", file_.string());
        if (std::fwrite(bytes.data(), 1, bytes.size(), out) != bytes.size())
            return pass_on(io_error("write the file", to, errno));
        job.report(static_cast<double>(total) / static_cast<double>(std::max<std::uint64_t>(stat.size, 1)));
        return {};
    });
    if (std::fclose(out) != 0 && done) done = pass_on(io_error("write the file", to, errno));
    return done;
}

Result<void> write_zip(const std::vector<ZipEntry>& entries, const std::filesystem::path& file, const JobContext& job) {
    auto target = OutputFile::begin(file);
    if (!target) return pass_on(target.error());
    int code = 0;
    zip* archive = zip_open(target->part().c_str(), ZIP_CREATE | ZIP_EXCL, &code);
    if (archive == nullptr) return pass_on(io_error("write the bundle", file, errno));
    const auto give_up = [&](Error error) -> tl::unexpected<Error> {
        zip_discard(archive);
        return pass_on(std::move(error));
    };
    for (const ZipEntry& entry : entries) {
        zip_source_t* source = entry.file.empty() ? zip_source_buffer(archive, entry.text.data(), entry.text.size(), 0)
                                                  : zip_source_file(archive, entry.file.c_str(), 0, -1);
        const zip_int64_t index =
            source == nullptr ? -1 : zip_file_add(archive, entry.name.c_str(), source, ZIP_FL_ENC_UTF_8);
        if (index < 0) {
            if (source != nullptr) zip_source_free(source);
            return give_up({ErrorCode::io,
                            "The bundle could not be put together: " + std::string(zip_strerror(archive)) + ".",
                            entry.file.string()});
        }
        zip_set_file_compression(archive, static_cast<zip_uint64_t>(index), ZIP_CM_DEFLATE, 1);
    }
    zip_register_progress_callback_with_state(
        archive, 0.01, [](zip*, double x, void* state) { static_cast<const JobContext*>(state)->report(x); }, nullptr,
        const_cast<JobContext*>(&job));
    zip_register_cancel_callback_with_state(
        archive, [](zip*, void* state) { return static_cast<const JobContext*>(state)->stopped() ? 1 : 0; }, nullptr,
        const_cast<JobContext*>(&job));
    if (zip_close(archive) != 0) {
        if (job.stopped()) return give_up({ErrorCode::cancelled, "Cancelled; no bundle was written.", file.string()});
        return give_up(
            {ErrorCode::io,
             "The bundle could not be written: " + std::string(zip_strerror(archive)) + ". Is the disk full?",
             file.string()});
    }
    return target->finish();
}

}  // namespace rendak
