#include "core/intake/run_path.h"

#include <cmath>
#include <cstdio>
#include <cstring>
#include <sstream>

#include "core/intake/place_run.h"
#include "core/library/derived.h"
#include "core/recording/let_go.h"
#include "core/recording/recording.h"
#include "core/signal/overview.h"
#include "core/track/accelerations.h"

namespace rendak {
namespace {

/// Raised whenever another path comes out of the same recording: smoothing, fusing, accelerations, this file's layout.
constexpr int version = 4;

std::vector<Channel> accelerations_of(const Recording& recording, const Path& path) {
    std::vector<Channel> out;
    for (DerivedAcceleration& derived : derived_accelerations(recording, path))
        out.push_back(std::move(derived.channel));
    return out;
}

/// Where a track's line lies, whatever its corners are called and wherever on it the start line is: length, middle and
/// spread, to some centimetres. A moved start line must not compute the paths of a whole season anew.
std::string likeness_of(const Track& track) {
    Point sum, squares;
    for (const Point p : track.line) {
        sum = sum + p;
        squares = squares + Point{p.x * p.x, p.y * p.y};
    }
    const double n = static_cast<double>(std::max<std::size_t>(1, track.line.size()));
    const Point middle = sum * (1 / n);
    const auto rounded = [](double metres) { return std::to_string(std::lround(20 * metres)); };
    return rounded(track.length_m / 10) + ' ' + rounded(middle.x) + ' ' + rounded(middle.y) + ' ' +
           rounded(std::sqrt(std::max(0.0, squares.x / n - middle.x * middle.x))) + ' ' +
           rounded(std::sqrt(std::max(0.0, squares.y / n - middle.y * middle.y)));
}

/// Everything that the path of a run is computed from. A catalogue that does not answer is an error, never a run
/// without corrections: its key would find the path of another time.
Result<std::string> key_of(const Library& library, const RunRow& row, const Recording& recording, const Track* track,
                           const PlaceCorrection& correction) {
    std::ostringstream key;
    key.precision(17);
    key << "path " << version << '\n';
    // The channels that are used, as this run has them: signs, windows, delays and joined recordings show in them.
    for (const Channel& channel : recording.channels) {
        const auto& clock = channel.clock;
        key << channel.name << '|' << channel.quantity << '|' << clock.size << '|' << clock.rate_hz << '|'
            << clock.span_s().begin << '|' << clock.span_s().end << '\n';
    }
    key << row.digest << ' ' << row.id.value;
    if (row.window_s) key << " window " << row.window_s->begin << ' ' << row.window_s->end;
    const auto add_flips = [&](RunId id) -> Result<void> {
        const auto flipped = library.flipped_quantities(id);
        if (!flipped) return pass_on(flipped.error());
        const auto edits = library.channel_edits(id);
        if (!edits) return pass_on(edits.error());
        for (const ChannelEdit& edit : *edits) key << " edit " << edit.channel << to_json(edit);
        for (const std::string& quantity : *flipped) key << " flipped " << quantity;
        return {};
    };
    if (auto fine = add_flips(row.id); !fine) return pass_on(fine.error());
    const auto parts = library.joined_runs(row.id);
    if (!parts) return pass_on(parts.error());
    for (const RunRow& part : *parts) {
        key << " joined " << part.digest << ' ' << part.join_offset_s;
        if (auto fine = add_flips(part.id); !fine) return pass_on(fine.error());
        const auto own = library.place_correction(part.id);
        if (!own) return pass_on(own.error());
        key << " delay " << own->delay_s;
    }
    key << " off " << correction.east_m << ' ' << correction.north_m << ' ' << correction.delay_s << '\n';
    if (recording.find_logged("latitude") != nullptr) {
        const GeoPoint origin = track != nullptr ? track->origin : default_origin(recording);
        key << "origin " << origin.latitude_deg << ' ' << origin.longitude_deg;
        // The slow error is told against the line: another line, another path.
        if (track != nullptr && !track->shape_only) key << " line " << likeness_of(*track);
    } else if (track != nullptr) {
        key << "by shape on " << track_to_geojson(*track);
    }
    return key.str();
}

/// Of a channel that was derived with the path.
struct ChannelHead {
    char name[80] = {};
    char quantity[40] = {};
};
constexpr const char* acceleration_unit = "m/s²";

/// How a path lies behind the head of a derived file; each column begins at a multiple of 64.
struct Layout {
    std::int32_t by_shape = 0, slow_error_out = 0, channels = 0;
    double latitude_deg = 0, longitude_deg = 0, noise_m = 0, lasting_x_m = 0, lasting_y_m = 0;
    std::uint64_t points = 0;
    std::uint64_t samples = 0;  ///< of each of the accelerations
    double start_s = 0, rate_hz = 0;
};

std::size_t padded(std::size_t bytes) {
    return (bytes + 63) / 64 * 64;
}

bool write_padded(std::FILE* file, const void* data, std::size_t bytes) {
    static constexpr char zeros[64] = {};
    return std::fwrite(data, 1, bytes, file) == bytes &&
           std::fwrite(zeros, 1, padded(bytes) - bytes, file) == padded(bytes) - bytes;
}

template <class T>
bool write_column(std::FILE* file, std::span<const T> values) {
    return write_padded(file, values.data(), values.size_bytes());
}

bool write_path(std::FILE* file, const RunPath& out) {
    const Path& path = out.path;
    Layout layout;
    layout.by_shape = path.by_shape;
    layout.slow_error_out = path.slow_error_out;
    layout.channels = static_cast<std::int32_t>(out.accelerations.size());
    layout.latitude_deg = path.origin.latitude_deg;
    layout.longitude_deg = path.origin.longitude_deg;
    layout.noise_m = path.noise_m;
    layout.lasting_x_m = path.lasting_error.x;
    layout.lasting_y_m = path.lasting_error.y;
    layout.points = path.size();
    if (!out.accelerations.empty()) {
        const SampleClock& clock = out.accelerations.front().clock;
        layout.samples = clock.size;
        layout.start_s = clock.start_s;
        layout.rate_hz = clock.rate_hz;
    }
    bool fine = write_padded(file, &layout, sizeof layout) && write_column<double>(file, path.time_s) &&
                write_column<Point>(file, path.position) && write_column<Point>(file, path.velocity) &&
                write_column<double>(file, path.distance_m) && write_column<char>(file, path.bridged) &&
                write_column<float>(file, path.sd_m);
    for (const Channel& channel : out.accelerations) {
        ChannelHead head;
        std::snprintf(head.name, sizeof head.name, "%s", channel.name.c_str());
        std::snprintf(head.quantity, sizeof head.quantity, "%s", channel.quantity.c_str());
        fine = fine && write_padded(file, &head, sizeof head) && write_column<float>(file, channel.floats());
        for (const auto& level : build_overview(channel.floats())) fine = fine && write_column<MinMax>(file, level);
    }
    return fine;
}

/// Takes columns from a mapped file one after the other.
class ColumnReader {
  public:
    explicit ColumnReader(std::shared_ptr<const MappedFile> file) : file_(std::move(file)) {}

    template <class T>
    std::span<const T> next(std::size_t count) {
        const std::size_t bytes = count * sizeof(T);
        if (count > file_->size() || at_ + padded(bytes) > file_->size()) {
            fits_ = false;
            return {};
        }
        const auto* from = reinterpret_cast<const T*>(file_->data() + at_);
        at_ += padded(bytes);
        return {from, count};
    }
    template <class T>
    Column<T> column(std::size_t count) {
        return Column<T>(next<T>(count), file_);
    }
    [[nodiscard]] bool fits() const { return fits_; }

  private:
    std::shared_ptr<const MappedFile> file_;
    std::size_t at_ = Derived::begin;
    bool fits_ = true;
};

std::optional<RunPath> read_path(const std::shared_ptr<const MappedFile>& file) {
    ColumnReader reader(file);
    const auto layouts = reader.next<Layout>(1);
    if (layouts.empty()) return std::nullopt;
    const Layout& layout = layouts.front();
    RunPath out;
    Path& path = out.path;
    path.origin = {layout.latitude_deg, layout.longitude_deg};
    path.noise_m = layout.noise_m;
    path.lasting_error = {layout.lasting_x_m, layout.lasting_y_m};
    path.by_shape = layout.by_shape != 0;
    path.slow_error_out = layout.slow_error_out != 0;
    path.time_s = reader.column<double>(layout.points);
    path.position = reader.column<Point>(layout.points);
    path.velocity = reader.column<Point>(layout.points);
    path.distance_m = reader.column<double>(layout.points);
    path.bridged = reader.column<char>(layout.points);
    path.sd_m = reader.column<float>(layout.points);
    for (std::int32_t k = 0; k < std::min<std::int32_t>(layout.channels, 2); ++k) {
        const auto heads = reader.next<ChannelHead>(1);
        if (heads.empty()) return std::nullopt;
        Channel channel;
        channel.name = heads.front().name;
        channel.quantity = heads.front().quantity;
        channel.unit = acceleration_unit;
        channel.clock = {layout.start_s, layout.rate_hz, layout.samples, {}};
        channel.samples = reader.next<float>(layout.samples);
        if (layout.samples >= 2 * overview_block) {
            for (std::size_t blocks = (layout.samples + overview_block - 1) / overview_block;;
                 blocks = (blocks + overview_step - 1) / overview_step) {
                channel.overview.push_back(reader.next<MinMax>(blocks));
                if (blocks <= 1) break;
            }
        }
        channel.owner = file;
        out.accelerations.push_back(std::move(channel));
    }
    return reader.fits() ? std::optional(std::move(out)) : std::nullopt;
}

}  // namespace

void keep_run_path(const Library& library, const RunRow& row, const Recording& recording, const Track* track,
                   const PlaceCorrection& correction, Path path) {
    if (library.is_look_only()) return;
    RunPath out{std::move(path), {}};
    out.accelerations = accelerations_of(recording, out.path);
    let_go_of_samples(recording);
    const auto key = key_of(library, row, recording, track, correction);
    if (!key) return;
    Derived(library.folder(), row.digest, row.id, *key).put([&](std::FILE* file) { return write_path(file, out); });
}

Result<RunPath> run_path(const Library& library, const RunRow& row, const Recording& recording, const Track* track,
                         const PlaceCorrection& correction) {
    const auto key = key_of(library, row, recording, track, correction);
    if (!key) return pass_on(key.error());
    const Derived kept(library.folder(), row.digest, row.id, *key);
    if (const auto file = kept.open()) {
        if (auto path = read_path(file)) return std::move(*path);
    }
    auto path = driven_path(recording, track, correction);
    if (!path) return pass_on(path.error());
    RunPath out{std::move(*path), {}};
    out.accelerations = accelerations_of(recording, out.path);
    if (!library.is_look_only()) {
        kept.put([&](std::FILE* file) { return write_path(file, out); });
        // What was computed goes from memory again.
        if (const auto file = kept.open()) {
            if (auto mapped = read_path(file)) return std::move(*mapped);
        }
    }
    return out;
}

}  // namespace rendak
