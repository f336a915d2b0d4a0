#include "core/recording/recording_file.h"

#include <fcntl.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>

#include "core/base/file_io.h"
#include "core/recording/h5_handle.h"
#include "core/signal/overview.h"

namespace rendak {
namespace {

constexpr double format_version = 1;
constexpr const char* format_name = "rendak recording";
constexpr char signature[] = "\x89HDF\r\n\x1a\n";

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
             const std::vector<std::vector<MinMax>>& overviews, std::vector<PlannedBytes>& plan) {
    const h5::Handle access(H5Pcreate(H5P_FILE_ACCESS), H5Pclose);
    H5Pset_alignment(access, 64, 64);
    h5::Handle out(H5Fcreate(file.c_str(), H5F_ACC_EXCL, H5P_DEFAULT, access), H5Fclose);
    if (!out.ok()) return false;
    h5::write_text(out, "format", format_name);
    h5::write_number(out, "version", format_version);
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
    std::size_t total = 1, done = 0;
    for (const auto& bytes : plan) total += bytes.size;
    int error_number = 0;
    bool cancelled = false;
    for (const auto& bytes : plan) {
        std::size_t at = 0;
        while (at < bytes.size && error_number == 0 && !cancelled) {
            const std::size_t piece = std::min<std::size_t>(bytes.size - at, 8U << 20);
            const auto written =
                ::pwrite(fd, static_cast<const char*>(bytes.data) + at, piece, static_cast<off_t>(bytes.offset + at));
            if (written < 0) {
                if (errno != EINTR) error_number = errno;
                continue;
            }
            at += static_cast<std::size_t>(written);
            done += static_cast<std::size_t>(written);
            job.report(static_cast<double>(done) / static_cast<double>(total));
            cancelled = job.stopped();
        }
    }
    ::close(fd);
    if (cancelled) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", shown_name.string());
    if (error_number != 0) return pass_on(io_error("write the recording", shown_name, error_number));
    return {};
}

// ---- reading ---------------------------------------------------------------------------------------

tl::unexpected<Error> damaged(const std::filesystem::path& file, const std::string& what) {
    return fail(ErrorCode::bad_input,
                "The recording is damaged or cut off (" + what +
                    "). Copy it again from where it came from; what is in the library is not touched.",
                file.string());
}

template <class T>
bool map_dataset(hid_t dataset, hid_t stored_type, const MappedFile& mapping, std::size_t count,
                 std::span<const T>& out) {
    const h5::Handle type(H5Dget_type(dataset), H5Tclose);
    if (H5Tequal(type, stored_type) <= 0) return false;
    const h5::Handle creation(H5Dget_create_plist(dataset), H5Pclose);
    if (H5Pget_layout(creation) != H5D_CONTIGUOUS || H5Pget_external_count(creation) != 0) return false;
    const haddr_t offset = H5Dget_offset(dataset);
    if (offset == HADDR_UNDEF || offset % alignof(T) != 0) return false;
    if (offset > mapping.size() || count > (mapping.size() - offset) / sizeof(T)) return false;
    out = {reinterpret_cast<const T*>(mapping.data() + offset), count};
    return true;
}

/// Length of a one-dimensional data set, or -1.
long long length_of(hid_t dataset) {
    const h5::Handle space(H5Dget_space(dataset), H5Sclose);
    if (!space.ok() || H5Sget_simple_extent_ndims(space) != 1) return -1;
    hsize_t size = 0;
    H5Sget_simple_extent_dims(space, &size, nullptr);
    return static_cast<long long>(size);
}

struct OwnedParts {
    std::shared_ptr<const MappedFile> mapping;
    std::vector<float> floats;
    std::vector<double> doubles;
    std::vector<double> times_s;
};

Result<Channel> read_channel(hid_t group, const std::shared_ptr<const MappedFile>& mapping,
                             const std::filesystem::path& file) {
    Channel channel;
    channel.name = h5::read_text(group, "name");
    channel.quantity = h5::read_text(group, "quantity");
    channel.unit = h5::read_text(group, "unit");
    channel.source_unit = h5::read_text(group, "source_unit");
    auto owner = std::make_shared<OwnedParts>();
    owner->mapping = mapping;

    if (H5Lexists(group, "samples", H5P_DEFAULT) <= 0)
        return damaged(file, "channel " + channel.name + " has no samples");
    const h5::Handle samples(H5Dopen2(group, "samples", H5P_DEFAULT), H5Dclose);
    const long long count = samples.ok() ? length_of(samples) : -1;
    if (count < 0) return damaged(file, "channel " + channel.name + " has no readable samples");
    const auto size = static_cast<std::size_t>(count);
    channel.clock.size = size;

    std::span<const float> floats;
    std::span<const double> doubles;
    if (map_dataset(samples, H5T_IEEE_F32LE, *mapping, size, floats)) {
        channel.samples = floats;
    } else if (map_dataset(samples, H5T_IEEE_F64LE, *mapping, size, doubles)) {
        channel.samples = doubles;
    } else {
        // A small file can claim a huge data set: what HDF5 has not allocated is not worth reading.
        const h5::Handle type(H5Dget_type(samples), H5Tclose);
        const auto kind = H5Tget_class(type);
        if ((kind != H5T_FLOAT && kind != H5T_INTEGER) || size / 1024 > mapping->size()) {
            return damaged(file, "channel " + channel.name + " is cut off or holds no numbers");
        }
        if (kind == H5T_FLOAT && H5Tget_size(type) > 4) {
            owner->doubles.resize(size);
            if (H5Dread(samples, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, owner->doubles.data()) < 0) {
                return damaged(file, "channel " + channel.name + " is cut off");
            }
            channel.samples = std::span<const double>(owner->doubles);
        } else {
            owner->floats.resize(size);
            if (H5Dread(samples, H5T_NATIVE_FLOAT, H5S_ALL, H5S_ALL, H5P_DEFAULT, owner->floats.data()) < 0) {
                return damaged(file, "channel " + channel.name + " is cut off");
            }
            channel.samples = std::span<const float>(owner->floats);
        }
    }

    if (H5Lexists(group, "times_s", H5P_DEFAULT) > 0) {
        const h5::Handle times(H5Dopen2(group, "times_s", H5P_DEFAULT), H5Dclose);
        if (!times.ok() || length_of(times) != count)
            return damaged(file, "channel " + channel.name + ": times do not match");
        if (!map_dataset(times, H5T_IEEE_F64LE, *mapping, size, channel.clock.times_s)) {
            if (size / 1024 > mapping->size()) return damaged(file, "channel " + channel.name + " is cut off");
            owner->times_s.resize(size);
            if (H5Dread(times, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, owner->times_s.data()) < 0) {
                return damaged(file, "channel " + channel.name + " is cut off");
            }
            channel.clock.times_s = owner->times_s;
        }
        if (size > 0) channel.clock.start_s = channel.clock.times_s.front();
    } else {
        const bool known = h5::read_number(group, "rate_hz", channel.clock.rate_hz);
        h5::read_number(group, "start_s", channel.clock.start_s);
        if (!known || !(channel.clock.rate_hz > 0) || !std::isfinite(channel.clock.rate_hz) ||
            !std::isfinite(channel.clock.start_s)) {
            return damaged(file, "channel " + channel.name + " has neither a rate nor times");
        }
    }

    if (!channel.is_double() && H5Lexists(group, "overview", H5P_DEFAULT) > 0) {
        const h5::Handle overview(H5Dopen2(group, "overview", H5P_DEFAULT), H5Dclose);
        std::size_t blocks = 0;
        std::vector<std::size_t> sizes;
        for (std::size_t n = (size + overview_block - 1) / overview_block;;
             n = (n + overview_step - 1) / overview_step) {
            sizes.push_back(n);
            blocks += n;
            if (n <= 1) break;
        }
        const h5::Handle space(H5Dget_space(overview), H5Sclose);
        std::span<const float> numbers;
        if (H5Sget_simple_extent_npoints(space) == static_cast<hssize_t>(2 * blocks) &&
            map_dataset(overview, H5T_IEEE_F32LE, *mapping, 2 * blocks, numbers)) {
            const auto* block = reinterpret_cast<const MinMax*>(numbers.data());
            for (const std::size_t n : sizes) {
                channel.overview.emplace_back(block, n);
                block += n;
            }
        }
    }
    channel.owner = std::move(owner);
    return channel;
}

}  // namespace

bool is_recording_file(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    char head[8] = {};
    return in.read(head, 8) && std::memcmp(head, signature, 8) == 0;
}

Result<std::shared_ptr<const Recording>> open_recording(const std::filesystem::path& file) {
    auto mapping = MappedFile::open(file);
    if (!mapping) return pass_on(mapping.error());
    if ((*mapping)->size() < 8 || std::memcmp((*mapping)->data(), signature, 8) != 0) {
        return fail(ErrorCode::bad_input, "This is no recording file of Rendak (it does not start like HDF5).",
                    file.string());
    }
    const h5::Lock lock;
    const h5::Handle in(H5Fopen(file.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!in.ok()) return damaged(file, "its end is missing or its structure cannot be read");
    if (h5::read_text(in, "format") != format_name) {
        return fail(ErrorCode::bad_input,
                    "This HDF5 file is no Rendak recording: it lacks the attribute \"format\" = \"" +
                        std::string(format_name) + "\" (docs/formats.md).",
                    file.string());
    }
    double version = 0;
    h5::read_number(in, "version", version);
    if (version > format_version) {
        return fail(ErrorCode::too_new,
                    "The recording was written by a newer version of Rendak. Update Rendak to open it.", file.string());
    }
    auto recording = std::make_shared<Recording>();
    recording->source_name = h5::read_text(in, "source_name");
    recording->logger = h5::read_text(in, "logger");
    recording->digest = h5::read_text(in, "digest");
    double start = 0;
    if (h5::read_number(in, "start_unix_s", start) && std::isfinite(start)) recording->start_unix_s = start;

    const h5::Handle channels(H5Gopen2(in, "channels", H5P_DEFAULT), H5Gclose);
    H5G_info_t info{};
    if (!channels.ok() || H5Gget_info(channels, &info) < 0) return damaged(file, "it has no channels");
    for (hsize_t i = 0; i < info.nlinks; ++i) {
        const h5::Handle group(H5Oopen_by_idx(channels, ".", H5_INDEX_NAME, H5_ITER_INC, i, H5P_DEFAULT), H5Oclose);
        if (!group.ok() || H5Iget_type(group) != H5I_GROUP) return damaged(file, "a channel cannot be read");
        auto channel = read_channel(group, *mapping, file);
        if (!channel) return pass_on(channel.error());
        recording->channels.push_back(std::move(*channel));
    }
    return recording;
}

Result<void> write_recording(const Recording& recording, const std::filesystem::path& file, const JobContext& job) {
    struct statvfs disk {};
    const auto folder = file.parent_path().empty() ? std::filesystem::path(".") : file.parent_path();
    if (::statvfs(folder.c_str(), &disk) != 0) return pass_on(io_error("write the recording", file, errno));
    const auto needed = bytes_needed(recording);
    const auto available = static_cast<double>(disk.f_bavail) * static_cast<double>(disk.f_frsize);
    if (available < static_cast<double>(needed)) {
        Error error = io_error("write the recording", file, ENOSPC);
        error.message += " It needs " + std::to_string(needed / 1'000'000 + 1) + " MB.";
        return pass_on(std::move(error));
    }
    std::vector<std::vector<MinMax>> overviews;
    for (const Channel& channel : recording.channels) {
        std::vector<MinMax> all;
        for (const auto& level : build_overview(channel.floats())) all.insert(all.end(), level.begin(), level.end());
        overviews.push_back(std::move(all));
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string());
    }
    const auto part = temporary_name(file);
    std::vector<PlannedBytes> plan;
    {
        const h5::Lock lock;
        if (!lay_out(recording, part, overviews, plan)) {
            const int error_number = h5::last_error_number();
            ::unlink(part.c_str());
            return pass_on(io_error("write the recording", file, error_number != 0 ? error_number : EIO));
        }
    }
    if (auto written = write_planned(plan, part, file, job); !written) {
        ::unlink(part.c_str());
        return written;
    }
    return finish_file(part, file);
}

}  // namespace rendak
