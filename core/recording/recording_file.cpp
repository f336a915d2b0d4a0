#include "core/recording/recording_file.h"

#include <fcntl.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <map>
#include <mutex>
#include <numeric>

#include "core/base/file_io.h"
#include "core/base/mapping_guard.h"
#include "core/base/spill.h"
#include "core/base/xxh3.h"
#include "core/recording/h5_handle.h"
#include "core/recording/reader_process.h"
#include "core/recording/recording_format.h"
#include "core/signal/overview.h"

namespace rendak {
namespace {

// ---- writing ---------------------------------------------------------------------------------------

// HDF5 lays the file out (metadata, allocated but unwritten data sets); the bytes of samples then go
// straight to their place with pwrite. That gives progress, cancel and an honest errno on a full disk.
struct PlannedBytes {
    const void* data;
    std::size_t size;
    haddr_t offset;
};

std::size_t bytes_needed(const Recording& recording) {
    std::size_t total = 64 * 1024;
    for (const Channel& channel : recording.channels) {
        total += 8 * 1024 + channel.size() * (channel.is_double() ? 8 : 4) + channel.clock.times_s.size_bytes();
        if (!channel.is_double()) total += channel.size() / overview_block * 11 + 256;
    }
    return total;
}

bool create_dataset(hid_t group, const char* name, hid_t type, std::vector<hsize_t> shape, const void* data,
                    std::size_t size, std::vector<PlannedBytes>& plan) {
    const h5::Handle space(H5Screate_simple(static_cast<int>(shape.size()), shape.data(), nullptr), H5Sclose);
    const h5::Handle creation(H5Pcreate(H5P_DATASET_CREATE), H5Pclose);
    H5Pset_layout(creation, H5D_CONTIGUOUS);
    H5Pset_alloc_time(creation, H5D_ALLOC_TIME_EARLY);
    H5Pset_fill_time(creation, H5D_FILL_TIME_NEVER);
    const h5::Handle dataset(H5Dcreate2(group, name, type, space, H5P_DEFAULT, creation, H5P_DEFAULT), H5Dclose);
    if (!dataset.ok()) return false;
    if (size == 0) return true;
    const haddr_t offset = H5Dget_offset(dataset);
    if (offset == HADDR_UNDEF) return false;
    plan.push_back({data, size, offset});
    return true;
}

std::string group_name(std::size_t index) {
    std::string digits = std::to_string(index);
    return std::string(digits.size() < 4 ? 4 - digits.size() : 0, '0') + digits;
}

bool lay_out(const Recording& recording, const std::filesystem::path& file,
             const std::vector<SpillBuffer<MinMax>>& overviews, std::vector<PlannedBytes>& plan) {
    const h5::Handle access(H5Pcreate(H5P_FILE_ACCESS), H5Pclose);
    H5Pset_alignment(access, 64, 64);
    h5::Handle out(H5Fcreate(file.c_str(), H5F_ACC_EXCL, H5P_DEFAULT, access), H5Fclose);
    if (!out.ok()) return false;
    h5::write_text(out, "format", recording_format::name);
    h5::write_number(out, "version", recording_format::version);
    h5::write_text(out, "source_name", recording.source_name);
    h5::write_text(out, "logger", recording.logger);
    h5::write_text(out, "digest", recording.digest);
    if (recording.start_unix_s) h5::write_number(out, "start_unix_s", *recording.start_unix_s);
    {
        const h5::Handle channels(H5Gcreate2(out, "channels", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT), H5Gclose);
        if (!channels.ok()) return false;
        for (std::size_t i = 0; i < recording.channels.size(); ++i) {
            const Channel& channel = recording.channels[i];
            const h5::Handle group(H5Gcreate2(channels, group_name(i).c_str(), H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT),
                                   H5Gclose);
            if (!group.ok()) return false;
            h5::write_text(group, "name", channel.name);
            h5::write_text(group, "quantity", channel.quantity);
            h5::write_text(group, "unit", channel.unit);
            h5::write_text(group, "source_unit", channel.source_unit);
            const bool fine = std::visit(
                [&](auto samples) {
                    return create_dataset(group, "samples", channel.is_double() ? H5T_IEEE_F64LE : H5T_IEEE_F32LE,
                                          {samples.size()}, samples.data(), samples.size_bytes(), plan);
                },
                channel.samples);
            if (!fine) return false;
            if (channel.clock.times_s.empty()) {
                h5::write_number(group, "start_s", channel.clock.start_s);
                h5::write_number(group, "rate_hz", channel.clock.rate_hz);
            } else if (!create_dataset(group, "times_s", H5T_IEEE_F64LE, {channel.clock.times_s.size()},
                                       channel.clock.times_s.data(), channel.clock.times_s.size_bytes(), plan)) {
                return false;
            }
            const auto& overview = overviews[i];
            if (!overview.empty() && !create_dataset(group, "overview", H5T_IEEE_F32LE, {overview.size(), 2},
                                                     overview.data(), overview.size() * sizeof(MinMax), plan)) {
                return false;
            }
        }
    }
    return out.close();
}

Result<void> write_planned(const std::vector<PlannedBytes>& plan, const std::filesystem::path& part,
                           const std::filesystem::path& shown_name, const JobContext& job) {
    const int fd = ::open(part.c_str(), O_WRONLY | O_CLOEXEC);
    if (fd < 0) return pass_on(io_error("write the recording", shown_name, errno));
    std::size_t total = 1, done = 0, unsent = 0;
    constexpr std::size_t enough_to_send = 8U << 20;
    for (const auto& bytes : plan) total += bytes.size;
    int error_number = 0;
    bool cancelled = false;
    for (const auto& bytes : plan) {
        std::size_t at = 0;
        while (at < bytes.size && error_number == 0 && !cancelled) {
            const std::size_t piece = std::min(bytes.size - at, enough_to_send);
            const auto written =
                ::pwrite(fd, static_cast<const char*>(bytes.data) + at, piece, static_cast<off_t>(bytes.offset + at));
            if (written < 0) {
                if (errno != EINTR) error_number = errno;
                continue;
            }
            let_go(static_cast<const char*>(bytes.data) + at, static_cast<std::size_t>(written));
            at += static_cast<std::size_t>(written);
            done += static_cast<std::size_t>(written);
            unsent += static_cast<std::size_t>(written);
            // On its way to the disk while the rest is written; what fails here is told by the flush at the end.
            if (unsent >= enough_to_send) {
                (void)::sync_file_range(fd, 0, 0, SYNC_FILE_RANGE_WRITE);
                unsent = 0;
            }
            job.report(static_cast<double>(done) / static_cast<double>(total));
            cancelled = job.stopped();
        }
        let_go(bytes.data, bytes.size);
    }
    ::close(fd);
    if (cancelled) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", shown_name.string());
    if (error_number != 0) return pass_on(io_error("write the recording", shown_name, error_number));
    return {};
}

// ---- reading ---------------------------------------------------------------------------------------

tl::unexpected<Error> damaged_file(const std::filesystem::path& file, const std::string& what) {
    return fail(ErrorCode::bad_input,
                "The recording is damaged or cut off (" + what +
                    "). Copy it again from where it came from; what is in the library is not touched.",
                file.string());
}

/// What a channel's spans point into.
struct Owner {
    std::shared_ptr<const MappedFile> file, handover;
};

/// The numbers at a place, or none when it does not lie inside its file.
template <class T>
std::optional<std::span<const T>> numbers_at(const HandedPlace& place, const Owner& owner) {
    const MappedFile* in = place.in == HandedPlace::In::file ? owner.file.get() : owner.handover.get();
    if (place.count == 0) return std::span<const T>();
    if (in == nullptr || place.bytes_each != sizeof(T) || place.offset % alignof(T) != 0 || place.offset > in->size() ||
        place.count > (in->size() - place.offset) / sizeof(T))
        return std::nullopt;
    return std::span<const T>(reinterpret_cast<const T*>(in->data() + place.offset), place.count);
}

/// Block counts of the overview levels of so many samples, finest first.
std::vector<std::size_t> overview_sizes(std::size_t samples) {
    std::vector<std::size_t> out;
    for (std::size_t n = (samples + overview_block - 1) / overview_block;;
         n = (n + overview_step - 1) / overview_step) {
        out.push_back(n);
        if (n <= 1) return out;
    }
}

Result<Channel> taken_over(const HandedChannel& from, const std::shared_ptr<const Owner>& owner,
                           const std::filesystem::path& file) {
    Channel channel;
    channel.name = from.name;
    channel.quantity = from.quantity;
    channel.unit = from.unit;
    channel.source_unit = from.source_unit;
    channel.clock.size = from.samples.count;
    if (from.samples.bytes_each == 4) {
        const auto samples = numbers_at<float>(from.samples, *owner);
        if (!samples) return damaged_file(file, "channel " + channel.name + " is cut off");
        channel.samples = *samples;
    } else {
        const auto samples = numbers_at<double>(from.samples, *owner);
        if (!samples) return damaged_file(file, "channel " + channel.name + " is cut off");
        channel.samples = *samples;
    }
    if (from.times_s.in != HandedPlace::In::nothing) {
        const auto times = numbers_at<double>(from.times_s, *owner);
        if (!times || times->size() != channel.clock.size)
            return damaged_file(file, "channel " + channel.name + ": times do not match");
        channel.clock.times_s = *times;
        if (!times->empty()) channel.clock.start_s = times->front();
    } else {
        channel.clock.rate_hz = from.rate_hz;
        channel.clock.start_s = from.start_s;
        if (!(from.rate_hz > 0) || !std::isfinite(from.rate_hz) || !std::isfinite(from.start_s))
            return damaged_file(file, "channel " + channel.name + " has neither a rate nor times");
    }
    if (from.overview.in != HandedPlace::In::nothing && !channel.is_double()) {
        const auto numbers = numbers_at<float>(from.overview, *owner);
        const auto sizes = overview_sizes(channel.clock.size);
        const std::size_t blocks = std::accumulate(sizes.begin(), sizes.end(), std::size_t{0});
        if (numbers && numbers->size() == 2 * blocks) {
            const auto* block = reinterpret_cast<const MinMax*>(numbers->data());
            for (const std::size_t n : sizes) {
                channel.overview.emplace_back(block, n);
                block += n;
            }
        }
    }
    channel.owner = owner;
    return channel;
}

/// Layouts of files that were read before in this process and have not changed since. Only those without unpacked
/// numbers: they are small.
class KnownLayouts {
  public:
    std::shared_ptr<const HandedRecording> find(const FileState& key) {
        const std::scoped_lock lock(mutex_);
        const auto found = known_.find(key);
        return found == known_.end() ? nullptr : found->second;
    }
    void keep(const FileState& key, std::shared_ptr<const HandedRecording> layout) {
        for (const HandedChannel& channel : layout->channels) {
            for (const auto* place : {&channel.samples, &channel.times_s})
                if (place->in == HandedPlace::In::handover) return;
        }
        const std::scoped_lock lock(mutex_);
        if (known_.size() > 20'000) known_.clear();
        known_[key] = std::move(layout);
    }

  private:
    std::mutex mutex_;
    std::map<FileState, std::shared_ptr<const HandedRecording>> known_;
};

KnownLayouts& known_layouts() {
    static KnownLayouts layouts;
    return layouts;
}

struct Hook {
    std::mutex mutex;
    std::shared_ptr<const OpeningHook> call;
};
Hook& opening_hook() {
    static Hook hook;
    return hook;
}

void tell_opening(const std::filesystem::path& file) {
    std::shared_ptr<const OpeningHook> call;
    {
        const std::scoped_lock lock(opening_hook().mutex);
        call = opening_hook().call;
    }
    if (call != nullptr) (*call)(file);
}

}  // namespace

void set_opening_hook(OpeningHook hook) {
    const std::scoped_lock lock(opening_hook().mutex);
    opening_hook().call = hook ? std::make_shared<const OpeningHook>(std::move(hook)) : nullptr;
}

bool looks_like_hdf5(std::string_view head) {
    for (const std::size_t at : {0, 512, 1024, 2048}) {
        if (head.size() >= at + 8 && head.substr(at, 8) == std::string_view(recording_format::signature, 8))
            return true;
    }
    return false;
}

bool is_hdf5_of_others(const std::filesystem::path& file) {
    const auto opened = open_regular(file);
    if (!opened) return false;
    const auto state = state_of(*opened);
    if (!state || known_layouts().find(*state) != nullptr) return false;
    const auto size = static_cast<std::uint64_t>((*state)[2]);
    const auto read = read_in_process(*opened, size, file, {WantedOfFile::What::kind, 0}, {});
    return read && read->recording.of_others;
}

Result<std::shared_ptr<const Recording>> open_recording(const std::filesystem::path& file, const JobContext& job) {
    tell_opening(file);
    const auto opened = open_regular(file);
    if (!opened) return pass_on(opened.error());
    auto mapping = MappedFile::of(*opened, file);
    if (!mapping) return pass_on(mapping.error());
    if (!looks_like_hdf5((*mapping)->text().substr(0, 4096)))
        return fail(ErrorCode::bad_input, "This is no recording file of Rendak (it does not start like HDF5).",
                    file.string());
    const FileState key = state_of(*opened).value_or(FileState{});
    auto owner = std::make_shared<Owner>(Owner{*mapping, nullptr});
    auto layout = known_layouts().find(key);
    if (layout == nullptr) {
        auto read = read_in_process(*opened, (*mapping)->size(), file, {}, job);
        if (!read) return pass_on(read.error());
        if (read->recording.of_others)
            return fail(ErrorCode::bad_input,
                        "This HDF5 file is no Rendak recording: it lacks the attribute \"format\" = \"" +
                            std::string(recording_format::name) + "\" (docs/formats.md).",
                        file.string());
        owner->handover = std::move(read->handover);
        layout = std::make_shared<const HandedRecording>(std::move(read->recording));
        known_layouts().keep(key, layout);
    }
    auto recording = std::make_shared<Recording>();
    recording->source_name = layout->source_name;
    recording->logger = layout->logger;
    recording->digest = layout->digest;
    if (layout->start_unix_s && std::isfinite(*layout->start_unix_s)) recording->start_unix_s = layout->start_unix_s;
    for (const HandedChannel& from : layout->channels) {
        auto channel = taken_over(from, owner, file);
        if (!channel) return pass_on(channel.error());
        recording->channels.push_back(std::move(*channel));
    }
    return recording;
}

Result<void> write_recording_part(const Recording& recording, const std::filesystem::path& part,
                                  const std::filesystem::path& shown_name, const JobContext& job) {
    struct statvfs disk {};
    const auto folder = part.parent_path().empty() ? std::filesystem::path(".") : part.parent_path();
    if (::statvfs(folder.c_str(), &disk) != 0) return pass_on(io_error("write the recording", shown_name, errno));
    const auto needed = bytes_needed(recording);
    const auto available = static_cast<double>(disk.f_bavail) * static_cast<double>(disk.f_frsize);
    if (available < static_cast<double>(needed)) {
        Error error = io_error("write the recording", shown_name, ENOSPC);
        error.message += " It needs " + std::to_string(needed / 1'000'000 + 1) + " MB.";
        return pass_on(std::move(error));
    }
    std::vector<SpillBuffer<MinMax>> overviews;  // of a day they are tens of megabytes
    for (const Channel& channel : recording.channels) {
        const auto levels = build_overview(channel.floats());
        std::size_t count = 0;
        for (const auto& level : levels) count += level.size();
        SpillBuffer<MinMax> all;
        all.reserve(count);
        for (const auto& level : levels) all.insert(all.end(), level.begin(), level.end());
        let_go(all.data(), all.size() * sizeof(MinMax));
        overviews.push_back(std::move(all));
        std::visit([](auto samples) { let_go(samples.data(), samples.size_bytes()); }, channel.samples);
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", shown_name.string());
    }
    std::vector<PlannedBytes> plan;
    {
        const h5::Lock lock;
        if (!lay_out(recording, part, overviews, plan)) {
            const int error_number = h5::last_error_number();
            return pass_on(io_error("write the recording", shown_name, error_number != 0 ? error_number : EIO));
        }
    }
    if (auto written = write_planned(plan, part, shown_name, job); !written) return written;
    if (const int error_number = flush_to_disk(part); error_number != 0)
        return pass_on(io_error("write the recording", shown_name, error_number));
    return {};
}

Result<void> write_recording(const Recording& recording, const std::filesystem::path& file, const JobContext& job) {
    auto target = OutputFile::begin(file);
    if (!target) return pass_on(target.error());
    if (auto written = write_recording_part(recording, target->part(), file, job); !written) return written;
    return target->finish();
}

Result<std::string> file_digest(const std::filesystem::path& file, const JobContext& job) {
    // Block by block and not mapped: a day of recordings must not count as this process's memory.
    const auto opened = open_regular(file);
    if (!opened) return pass_on(opened.error());
    const auto before = state_of(*opened);
    Xxh3 digest;
    std::vector<char> block(1U << 20);
    const auto size = static_cast<double>(before ? (*before)[2] : 0);
    for (off_t at = 0;;) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", file.string());
        const ssize_t got = ::pread(opened->fd(), block.data(), block.size(), at);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return pass_on(io_error("read", file, errno));
        if (got == 0) break;
        digest.add(block.data(), static_cast<std::size_t>(got));
        at += got;
        if (size > 0) job.report(static_cast<double>(at) / size);
    }
    // Size and time of writing: another name for the file changes its state, and nothing in it.
    const auto after = state_of(*opened);
    if (!before || !after || !std::equal(before->begin() + 2, before->begin() + 5, after->begin() + 2))
        return pass_on(file_changed(file));
    return digest.hex();
}

}  // namespace rendak
