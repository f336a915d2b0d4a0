#include "core/recording/h5_layout.h"

#include <cmath>
#include <cstring>
#include <vector>

#include "core/recording/h5_handle.h"
#include "core/recording/recording_format.h"

namespace rendak {
namespace {

constexpr hsize_t most_h5_channels = 10'000;
constexpr hsize_t numbers_at_once = 1U << 20;

Error damaged(const std::string& what) {
    return {ErrorCode::bad_input,
            "The recording is damaged or cut off (" + what +
                "). Copy it again from where it came from; what is in the library is not touched.",
            ""};
}

Error refused(const std::string& what) {
    return {ErrorCode::bad_input,
            "The recording was refused: " + what +
                ". A recording of Rendak holds plain data sets and nothing else (docs/formats.md); do not trust where "
                "this file comes from.",
            ""};
}

/// Whether the link of this name leads to an object of this very file.
bool is_hard_link(hid_t group, const char* name) {
    H5L_info_t info{};
    return H5Lget_info(group, name, &info, H5P_DEFAULT) >= 0 && info.type == H5L_TYPE_HARD;
}

bool is_known_filter(H5Z_filter_t filter) {
    return filter == H5Z_FILTER_DEFLATE || filter == H5Z_FILTER_SHUFFLE || filter == H5Z_FILTER_FLETCHER32;
}

class Reading {
  public:
    Reading(std::uint64_t file_size, HandoverWriter& out) : size_(file_size), out_(out) {}

    Result<HandedChannel> channel(hid_t group) {
        HandedChannel channel;
        channel.name = h5::read_text(group, "name");
        channel.quantity = h5::read_text(group, "quantity");
        channel.unit = h5::read_text(group, "unit");
        channel.source_unit = h5::read_text(group, "source_unit");
        what_ = "channel " + channel.name;
        if (H5Lexists(group, "samples", H5P_DEFAULT) <= 0) return tl::unexpected(damaged(what_ + " has no samples"));
        if (auto done = numbers(group, "samples", 1, 0, channel.samples); !done) return tl::unexpected(done.error());
        if (H5Lexists(group, "times_s", H5P_DEFAULT) > 0) {
            if (auto done = numbers(group, "times_s", 1, 8, channel.times_s); !done)
                return tl::unexpected(done.error());
            if (channel.times_s.count != channel.samples.count)
                return tl::unexpected(damaged(what_ + ": times do not match"));
        } else {
            const bool known = h5::read_number(group, "rate_hz", channel.rate_hz);
            h5::read_number(group, "start_s", channel.start_s);
            if (!known || !(channel.rate_hz > 0) || !std::isfinite(channel.rate_hz) || !std::isfinite(channel.start_s))
                return tl::unexpected(damaged(what_ + " has neither a rate nor times"));
        }
        if (channel.samples.bytes_each == 4 && H5Lexists(group, "overview", H5P_DEFAULT) > 0) {
            HandedPlace overview;
            if (auto done = numbers(group, "overview", 2, 4, overview); !done) return tl::unexpected(done.error());
            // Only mapped: one that somebody packed is not worth unpacking.
            if (overview.in == HandedPlace::In::file) channel.overview = overview;
        }
        return channel;
    }

  private:
    /// Checks a data set and says where its numbers are. `wanted_bytes` 0: float32 or float64, as they are stored.
    Result<void> numbers(hid_t group, const char* name, int rank, std::uint8_t wanted_bytes, HandedPlace& place) {
        const std::string what = what_ + ", " + name;
        if (!is_hard_link(group, name)) return tl::unexpected(refused(what + " is a link to somewhere else"));
        const h5::Handle set(H5Dopen2(group, name, H5P_DEFAULT), H5Dclose);
        if (!set.ok()) return tl::unexpected(damaged(what + " cannot be read"));
        const h5::Handle space(H5Dget_space(set), H5Sclose);
        if (!space.ok() || H5Sget_simple_extent_ndims(space) != rank)
            return tl::unexpected(damaged(what + " has another shape"));
        hsize_t shape[2] = {0, 1};
        H5Sget_simple_extent_dims(space, shape, nullptr);
        if (rank == 2 && shape[1] != 2) return tl::unexpected(damaged(what + " has another shape"));
        const hsize_t count = shape[0] * (rank == 2 ? 2 : 1);
        const h5::Handle creation(H5Dget_create_plist(set), H5Pclose);
        const auto layout = H5Pget_layout(creation);
        if (H5Pget_external_count(creation) != 0) return tl::unexpected(refused(what + " is stored in another file"));
        if (layout != H5D_CONTIGUOUS && layout != H5D_CHUNKED)
            return tl::unexpected(refused(what + " is neither contiguous nor chunked"));
        const h5::Handle type(H5Dget_type(set), H5Tclose);
        const auto kind = H5Tget_class(type);
        if (kind != H5T_FLOAT && kind != H5T_INTEGER) return tl::unexpected(damaged(what + " holds no numbers"));
        // Deflate never packs better than 1 : 1032: what claims more is not in the file.
        if (count / 1032 > size_) return tl::unexpected(damaged(what + " is cut off"));

        const bool single = H5Tequal(type, H5T_IEEE_F32LE) > 0, both = H5Tequal(type, H5T_IEEE_F64LE) > 0;
        const auto stored_bytes = static_cast<std::uint8_t>(single ? 4 : 8);
        if (layout == H5D_CONTIGUOUS && (single || both) && (wanted_bytes == 0 || wanted_bytes == stored_bytes)) {
            const haddr_t offset = count == 0 ? 0 : H5Dget_offset(set);
            const bool inside = offset != HADDR_UNDEF && offset <= size_ && count <= (size_ - offset) / stored_bytes;
            if (inside && offset % stored_bytes == 0) {
                // Data sets of a sound file do not lie over each other.
                if ((mapped_ += count * stored_bytes) > size_)
                    return tl::unexpected(refused("its data sets lie over each other"));
                place = {HandedPlace::In::file, stored_bytes, offset, count};
                return {};
            }
            if (!inside) return tl::unexpected(damaged(what + " is cut off"));
        }
        if (rank == 2) return {};
        if (layout == H5D_CHUNKED) {
            hsize_t chunk = 0;
            if (H5Pget_chunk(creation, 1, &chunk) != 1 || chunk > h5::largest_chunk_bytes / H5Tget_size(type))
                return tl::unexpected(refused(what + " has chunks of more than 64 MB"));
        }
        for (int i = 0; i < H5Pget_nfilters(creation); ++i) {
            unsigned flags = 0, settings = 0;
            std::size_t values = 0;
            if (!is_known_filter(H5Pget_filter2(creation, static_cast<unsigned>(i), &flags, &values, nullptr, 0,
                                                nullptr, &settings)))
                return tl::unexpected(refused(what + " is packed in a way that Rendak does not read"));
        }
        const auto bytes = wanted_bytes != 0                            ? wanted_bytes
                           : kind == H5T_FLOAT && H5Tget_size(type) > 4 ? std::uint8_t{8}
                                                                        : std::uint8_t{4};
        return unpack(set, space, count, bytes, place, what);
    }

    Result<void> unpack(hid_t set, hid_t space, hsize_t count, std::uint8_t bytes, HandedPlace& place,
                        const std::string& what) {
        const auto room = out_.reserve(count, bytes);
        if (!room) return tl::unexpected(refused("it would unpack to more memory than one file may take"));
        place = *room;
        std::vector<char> block(std::min(count, numbers_at_once) * bytes);
        for (hsize_t at = 0; at < count; at += numbers_at_once) {
            hsize_t n = std::min(count - at, numbers_at_once);
            const h5::Handle memory(H5Screate_simple(1, &n, nullptr), H5Sclose);
            const bool fine = H5Sselect_hyperslab(space, H5S_SELECT_SET, &at, nullptr, &n, nullptr) >= 0 &&
                              H5Dread(set, bytes == 8 ? H5T_NATIVE_DOUBLE : H5T_NATIVE_FLOAT, memory, space,
                                      H5P_DEFAULT, block.data()) >= 0;
            if (!fine) return tl::unexpected(damaged(what + " is cut off"));
            if (!out_.put(place.offset + at * bytes, block.data(), n * bytes))
                return tl::unexpected(refused("it would unpack to more memory than one file may take"));
        }
        return {};
    }

    std::uint64_t size_, mapped_ = 0;
    HandoverWriter& out_;
    std::string what_;
};

}  // namespace

Result<HandedRecording> lay_open(const std::filesystem::path& file, std::uint64_t file_size, bool kind_only,
                                 HandoverWriter& out, void (*opened)()) {
    const h5::Lock lock;
    const h5::Handle in(H5Fopen(file.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!in.ok()) return tl::unexpected(damaged("its end is missing or its structure cannot be read"));
    opened();
    HandedRecording recording;
    recording.of_others = h5::read_text(in, "format") != recording_format::name;
    if (recording.of_others || kind_only) return recording;
    double version = 0;
    h5::read_number(in, "version", version);
    if (version > recording_format::version)
        return fail(ErrorCode::too_new,
                    "The recording was written by a newer version of Rendak. Update Rendak to open it.");
    recording.source_name = h5::read_text(in, "source_name");
    recording.logger = h5::read_text(in, "logger");
    recording.digest = h5::read_text(in, "digest");
    double start = 0;
    if (h5::read_number(in, "start_unix_s", start) && std::isfinite(start)) recording.start_unix_s = start;
    if (H5Lexists(in, "channels", H5P_DEFAULT) <= 0) return tl::unexpected(damaged("it has no channels"));
    if (!is_hard_link(in, "channels")) return tl::unexpected(refused("its channels are a link to somewhere else"));
    const h5::Handle channels(H5Gopen2(in, "channels", H5P_DEFAULT), H5Gclose);
    H5G_info_t info{};
    if (!channels.ok() || H5Gget_info(channels, &info) < 0) return tl::unexpected(damaged("it has no channels"));
    if (info.nlinks > most_h5_channels) return tl::unexpected(refused("it claims more than 10 000 channels"));
    Reading reading(file_size, out);
    for (hsize_t i = 0; i < info.nlinks; ++i) {
        H5L_info_t link{};
        if (H5Lget_info_by_idx(channels, ".", H5_INDEX_NAME, H5_ITER_INC, i, &link, H5P_DEFAULT) < 0)
            return tl::unexpected(damaged("a channel cannot be read"));
        if (link.type != H5L_TYPE_HARD) return tl::unexpected(refused("a channel is a link to somewhere else"));
        const h5::Handle group(H5Oopen_by_idx(channels, ".", H5_INDEX_NAME, H5_ITER_INC, i, H5P_DEFAULT), H5Oclose);
        if (!group.ok() || H5Iget_type(group) != H5I_GROUP) return tl::unexpected(damaged("a channel cannot be read"));
        auto channel = reading.channel(group);
        if (!channel) return tl::unexpected(channel.error());
        recording.channels.push_back(std::move(*channel));
    }
    return recording;
}

}  // namespace rendak
