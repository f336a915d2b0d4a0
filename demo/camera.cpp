#include "demo/camera.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <numbers>

#include "core/video/film_link.h"
#include "demo/noise.h"

namespace rendak::demo {
namespace {

using Colour = std::array<std::uint8_t, 3>;  // red, green, blue
constexpr Colour sky_high{118, 158, 196}, sky_low{198, 214, 224}, hills{96, 112, 118}, grass{96, 128, 72},
    grass_other{84, 116, 64}, asphalt{92, 92, 96}, asphalt_other{86, 86, 90}, white{232, 232, 228}, red{190, 62, 48},
    post{214, 120, 50}, dark{34, 36, 40}, glove{150, 60, 50}, wheel_grey{52, 54, 60}, green{70, 160, 90};

double read(const std::vector<double>& values, double cell) {
    const double at = std::clamp(cell, 0.0, static_cast<double>(values.size() - 1));
    const auto i = static_cast<std::size_t>(at);
    const double u = at - static_cast<double>(i);
    return values[i] * (1 - u) + values[std::min(i + 1, values.size() - 1)] * u;
}

/// What is painted on: pixels of one frame.
struct Canvas {
    std::span<std::uint8_t> pixels;
    int width, height;

    void run(int y, double from, double to, const Colour& colour) const {
        if (y < 0 || y >= height) return;
        const int first = std::max(0, static_cast<int>(std::ceil(from - 0.5)));
        const int last = std::min(width, static_cast<int>(std::ceil(to - 0.5)));
        std::uint8_t* at =
            pixels.data() +
            (static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(first)) * 4;
        for (int x = first; x < last; ++x, at += 4) {
            at[0] = colour[2];
            at[1] = colour[1];
            at[2] = colour[0];
            at[3] = 255;
        }
    }
    void rectangle(double left, double top, double right, double bottom, const Colour& colour) const {
        for (int y = static_cast<int>(std::lround(top)); y < static_cast<int>(std::lround(bottom)); ++y)
            run(y, left, right, colour);
    }
    /// Convex.
    void polygon(std::span<const Point> corners, const Colour& colour) const {
        double top = 1e9, bottom = -1e9;
        for (const Point& p : corners) {
            top = std::min(top, p.y);
            bottom = std::max(bottom, p.y);
        }
        const int first = std::max(0, static_cast<int>(std::ceil(top - 0.5)));
        const int last = std::min(height, static_cast<int>(std::ceil(bottom - 0.5)));
        for (int y = first; y < last; ++y) {
            const double middle = y + 0.5;
            double left = 1e9, right = -1e9;
            for (std::size_t k = 0; k < corners.size(); ++k) {
                const Point &a = corners[k], &b = corners[(k + 1) % corners.size()];
                if ((a.y <= middle) == (b.y <= middle)) continue;
                const double x = a.x + (middle - a.y) / (b.y - a.y) * (b.x - a.x);
                left = std::min(left, x);
                right = std::max(right, x);
            }
            if (left < right) run(y, std::max(left, -1.0), std::min(right, width + 1.0), colour);
        }
    }
    void disc(Point middle, double radius, const Colour& colour) const {
        for (int y = static_cast<int>(middle.y - radius); y <= static_cast<int>(middle.y + radius); ++y) {
            const double d = y + 0.5 - middle.y, half = radius * radius - d * d;
            if (half > 0) run(y, middle.x - std::sqrt(half), middle.x + std::sqrt(half), colour);
        }
    }
};

Colour mixed(const Colour& a, const Colour& b, double share) {
    Colour out{};
    for (std::size_t k = 0; k < 3; ++k) out[k] = static_cast<std::uint8_t>(a[k] + (b[k] - a[k]) * share);
    return out;
}

}  // namespace

Camera::Camera(const Circuit& circuit, const Drive& drive, const Recording& recording, CameraPlan plan)
    : circuit_(circuit),
      drive_(drive),
      recording_(recording),
      plan_(std::move(plan)),
      noise_state_(plan_.seed * 7919 + 1) {}

void Camera::draw(double time_s, std::span<std::uint8_t> out) {
    out_ = out;
    if (plan_.view == CameraPlan::View::forward)
        forward(time_s);
    else
        driver(time_s);
    finish(time_s);
}

void Camera::forward(double time_s) {
    const Canvas canvas{out_, plan_.width, plan_.height};
    const double cell = time_s / Drive::step_s;
    const auto i = static_cast<std::size_t>(std::clamp(cell, 1.0, static_cast<double>(drive_.position.size() - 2)));
    const double u = std::clamp(cell - static_cast<double>(i), 0.0, 1.0);
    const Point here{drive_.position[i].x * (1 - u) + drive_.position[i + 1].x * u,
                     drive_.position[i].y * (1 - u) + drive_.position[i + 1].y * u};
    const double along = read(drive_.along_m, cell), speed = read(drive_.speed_mps, cell);
    // Where the car looks: along its path, told from the road where it stands.
    Point ahead = circuit_.direction[circuit_.index(along)];
    const std::size_t reach = 8;
    const std::size_t before = i > reach ? i - reach : 0, behind = std::min(i + reach, drive_.position.size() - 1);
    const Point way{drive_.position[behind].x - drive_.position[before].x,
                    drive_.position[behind].y - drive_.position[before].y};
    if (const double far = std::hypot(way.x, way.y); far > 0.3) ahead = {way.x / far, way.y / far};
    Noise shaken(plan_.seed * 1000003 + static_cast<std::uint64_t>(std::lround(time_s * 1000)));
    const double rough = plan_.shake_px * std::min(1.0, speed / 30);
    const double focal = 0.62 * plan_.width;
    const double middle_x = plan_.width / 2.0 + rough * shaken.normal(),
                 horizon = 0.42 * plan_.height + rough * shaken.normal();
    constexpr double eye_m = 1.05;

    // Sky, and the hills by the direction one looks in.
    for (int y = 0; y < plan_.height; ++y)
        canvas.run(y, 0, plan_.width, y < horizon ? mixed(sky_high, sky_low, y / horizon) : grass);
    const double heading = std::atan2(ahead.y, ahead.x);
    for (int x = 0; x < plan_.width; ++x) {
        const double azimuth = heading - std::atan((x - middle_x) / focal);
        const double ridge = 0.030 + 0.016 * std::sin(3 * azimuth + 1) + 0.010 * std::sin(11 * azimuth) +
                             0.006 * std::sin(29 * azimuth + 2) + (std::fmod(azimuth + 10, 0.35) < 0.03 ? 0.03 : 0);
        canvas.rectangle(x, horizon - ridge * focal, x + 1, horizon + 1, hills);
    }
    struct Section {
        Point left, right;  // edges of the road, on the picture
        Point far_left, far_right;
        double along, depth, kerb, half_m;
    };
    const auto on_picture = [&](Point ground, double height_m) {
        const Point d{ground.x - here.x, ground.y - here.y};
        const double depth = d.x * ahead.x + d.y * ahead.y, side = d.x * ahead.y - d.y * ahead.x;  // to the right
        return std::pair(Point{middle_x + focal * side / depth, horizon + focal * (eye_m - height_m) / depth}, depth);
    };
    std::vector<Section> sections;
    const double first = std::floor(along / 2) * 2 - 2;
    for (double s = first; s < along + 320; s += s < along + 50 ? 2 : s < along + 120 ? 4 : 10) {
        const double round = circuit_.open ? std::clamp(s, 0.0, circuit_.road_m() - 1) : s;
        const std::size_t k = circuit_.index(round);
        const double half = circuit_.half_width_m[k];
        const auto [left, depth_left] = on_picture(circuit_.position(round, half), 0);
        const auto [right, depth_right] = on_picture(circuit_.position(round, -half), 0);
        if (std::min(depth_left, depth_right) < 0.7) continue;
        const auto [far_left, a] = on_picture(circuit_.position(round, half + 30), 0);
        const auto [far_right, b] = on_picture(circuit_.position(round, -half - 30), 0);
        if (std::min(a, b) < 0.4) continue;
        sections.push_back({left, right, far_left, far_right, s, std::min(depth_left, depth_right),
                            circuit_.kerb_left_m.empty() ? 0 : circuit_.kerb_left_m[k], half});
    }
    for (std::size_t n = sections.size(); n-- > 1;) {
        const Section &near = sections[n - 1], &far = sections[n];
        const auto strip = [&](double near_from, double near_to, double far_from, double far_to, const Colour& colour) {
            // Shares of the way from the left to the right edge.
            const auto at = [](const Section& it, double share) {
                return Point{it.left.x + share * (it.right.x - it.left.x),
                             it.left.y + share * (it.right.y - it.left.y)};
            };
            const std::array corners{at(near, near_from), at(near, near_to), at(far, far_to), at(far, far_from)};
            canvas.polygon(corners, colour);
        };
        const bool other = static_cast<long>(std::floor(near.along / 8)) % 2 != 0;
        const std::array left_side{near.far_left, near.left, far.left, far.far_left};
        const std::array right_side{near.right, near.far_right, far.far_right, far.right};
        canvas.polygon(left_side, other ? grass : grass_other);
        canvas.polygon(right_side, other ? grass : grass_other);
        strip(0, 1, 0, 1, static_cast<long>(std::floor(near.along / 20)) % 2 != 0 ? asphalt : asphalt_other);
        const double line = 0.15 / near.half_m / 2 + 0.004, far_line = 0.15 / far.half_m / 2 + 0.004;
        strip(0, line, 0, far_line, white);
        strip(1 - line, 1, 1 - far_line, 1, white);
        if (near.kerb != 0) {
            const Colour& colour = static_cast<long>(std::floor(near.along / 2)) % 2 != 0 ? red : white;
            const double wide = 0.8 / near.half_m / 2;
            if (near.kerb > 0) strip(-wide, 0, -wide, 0, colour);
            if (near.kerb < 0) strip(1, 1 + wide, 1, 1 + wide, colour);
        }
        if (!circuit_.open && std::abs(std::remainder(near.along, circuit_.length_m)) < 1.5) strip(0, 1, 0, 1, white);
        if (static_cast<long>(std::lround(near.along)) % 60 < 2) {
            for (const double side : {1.0, -1.0}) {
                const Point foot = circuit_.position(near.along, side * (near.half_m + 3));
                const auto [low, depth] = on_picture(foot, 0);
                const auto [high, same] = on_picture(foot, 1.3);
                if (depth > 1.5)
                    canvas.rectangle(low.x - 0.1 * focal / depth, high.y, low.x + 0.1 * focal / depth, low.y, post);
            }
        }
    }
    // The nose of the car.
    const double w = plan_.width, h = plan_.height;
    const std::array nose{Point{0.36 * w, h}, Point{0.46 * w, 0.86 * h}, Point{0.54 * w, 0.86 * h}, Point{0.64 * w, h}};
    canvas.polygon(nose, dark);
}

void Camera::driver(double time_s) {
    const Canvas canvas{out_, plan_.width, plan_.height};
    const double w = plan_.width, h = plan_.height;
    const auto value = [&](const char* name) {
        const Channel* channel = recording_.find(name);
        const double out = channel == nullptr ? 0 : channel->value_at(time_s);
        return std::isfinite(out) ? out : 0;
    };
    canvas.rectangle(0, 0, w, h, dark);
    // Through the windows the world goes by: to the left as far as the car has come, and turned as it turns.
    const double along = read(drive_.along_m, time_s / Drive::step_s);
    for (int x = 0; x < plan_.width; ++x) {
        const bool window = x < 0.22 * w || x > 0.78 * w;
        if (!window) continue;
        const double goes = along * 6 + (x < 0.5 * w ? x : w - x);
        const bool other = static_cast<long>(std::floor(goes / 40)) % 2 != 0;
        canvas.rectangle(x, 0.05 * h, x + 1, 0.24 * h, sky_low);
        canvas.rectangle(x, 0.24 * h, x + 1, 0.45 * h, other ? grass : grass_other);
    }
    Noise shaken(plan_.seed * 1000003 + static_cast<std::uint64_t>(std::lround(time_s * 1000)));
    const Point hub{0.5 * w + plan_.shake_px * shaken.normal(), 0.52 * h + plan_.shake_px * shaken.normal()};
    const double radius = 0.3 * h, turned = value("steering");  // left positive
    canvas.disc(hub, radius, wheel_grey);
    canvas.disc(hub, 0.8 * radius, dark);
    for (const double spoke : {0.0, std::numbers::pi, -std::numbers::pi / 2}) {
        const double a = spoke + turned;
        const Point way{std::cos(a), -std::sin(a)}, across{way.y * 0.07 * radius, -way.x * 0.07 * radius};
        const std::array corners{
            Point{hub.x + across.x, hub.y + across.y}, Point{hub.x - across.x, hub.y - across.y},
            Point{hub.x + way.x * 0.9 * radius - across.x, hub.y + way.y * 0.9 * radius - across.y},
            Point{hub.x + way.x * 0.9 * radius + across.x, hub.y + way.y * 0.9 * radius + across.y}};
        canvas.polygon(corners, wheel_grey);
    }
    for (const double hand : {0.0, std::numbers::pi})
        canvas.disc({hub.x + 0.9 * radius * std::cos(hand + turned), hub.y - 0.9 * radius * std::sin(hand + turned)},
                    0.22 * radius, glove);
    // The pedals, from above: the farther down, the longer.
    const double throttle = std::clamp(value("throttle"), 0.0, 1.0);
    const double brake = std::clamp(value("brake_front") / 6e6, 0.0, 1.0);
    canvas.rectangle(0.40 * w, 0.88 * h, 0.46 * w, (0.88 + 0.10 * brake) * h + 2, red);
    canvas.rectangle(0.54 * w, 0.88 * h, 0.60 * w, (0.88 + 0.10 * throttle) * h + 2, green);
}

void Camera::finish(double time_s) {
    const double middle = (plan_.time_s.begin + plan_.time_s.end) / 2;
    if (plan_.turned_off_s > 0 && std::abs(time_s - middle) < plan_.turned_off_s / 2)
        std::fill(out_.begin(), out_.begin() + std::ptrdiff_t{4} * plan_.width * plan_.height, std::uint8_t{6});
    if (plan_.noise <= 0) return;
    for (std::size_t i = 0; i < static_cast<std::size_t>(plan_.width) * static_cast<std::size_t>(plan_.height); ++i) {
        // Quick and the same everywhere (xorshift, Marsaglia 2003).
        noise_state_ ^= noise_state_ << 13;
        noise_state_ ^= noise_state_ >> 7;
        noise_state_ ^= noise_state_ << 17;
        const double part = static_cast<double>(noise_state_ >> 40) / 16777216.0 - 0.5;
        for (std::size_t k = 0; k < 3; ++k) {
            const double wanted = out_[4 * i + k] + part * 3.46 * plan_.noise;
            out_[4 * i + k] = static_cast<std::uint8_t>(std::clamp(wanted, 0.0, 255.0));
        }
    }
}

std::vector<float> cockpit_sound(const Recording& recording, Interval time_s, double clock_rate, int rate_hz,
                                 std::uint64_t seed) {
    const Channel *revs = recording.find("engine_speed"), *throttle = recording.find("throttle"),
                  *speed = recording.find("speed");
    const auto count = static_cast<std::size_t>(time_s.length() / clock_rate * rate_hz);
    std::vector<float> out(count);
    Noise noise(seed);
    double phase = 0, wind = 0;
    double turns = 0, open = 0, v = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const double t = time_s.begin + static_cast<double>(i) / rate_hz * clock_rate;
        if (i % 40 == 0) {
            const auto value = [&](const Channel* it) {
                const double x = it == nullptr ? 0 : it->value_at(t);
                return std::isfinite(x) ? x : 0;
            };
            turns = value(revs) / (2 * std::numbers::pi);
            open = std::clamp(value(throttle), 0.0, 1.0);
            v = value(speed);
        }
        phase += 2 * std::numbers::pi * turns / rate_hz * clock_rate;
        const double loud = 0.05 + 0.15 * open;
        // A four-cylinder's firing, its halves and its multiples.
        const double engine = 0.3 * std::sin(phase) + 1.0 * std::sin(2 * phase + 0.3) + 0.5 * std::sin(4 * phase + 1) +
                              0.2 * std::sin(1.5 * phase) + 0.2 * std::sin(6 * phase);
        wind += 0.08 * (noise.normal() - wind);
        out[i] = static_cast<float>(loud * engine + 0.002 * v * wind * 3);
    }
    return out;
}

Result<void> film_run(const Circuit& circuit, const Drive& drive, const Recording& recording, const CameraPlan& plan,
                      const std::filesystem::path& file, const JobContext& job) {
    constexpr int sound_hz = 16000;
    FilmWish wish;
    wish.file = file.string();
    wish.width = plan.width;
    wish.height = plan.height;
    wish.frames_per_s = plan.frames_per_s;
    wish.sound_hz = plan.sound ? sound_hz : 0;
    wish.codec = plan.codec;
    wish.quality = plan.quality;
    wish.gop = plan.gop;
    wish.start = plan.start;
    auto film = FilmWriter::begin(wish);
    if (!film) return pass_on(film.error());
    if (plan.sound) {
        const auto sound = cockpit_sound(recording, plan.time_s, plan.clock_rate, sound_hz, plan.seed);
        if (auto done = film->put_sound(sound); !done) return done;
    }
    Camera camera(circuit, drive, recording, plan);
    const auto frames = static_cast<std::int64_t>(plan.time_s.length() / plan.clock_rate * plan.frames_per_s);
    // Many at a time: each question to the encoder waits for its answer.
    const std::size_t size =
        std::size_t{4} * static_cast<std::size_t>(plan.width) * static_cast<std::size_t>(plan.height);
    const auto at_once = static_cast<std::int64_t>(std::clamp<std::size_t>(film->pixels().size() / size, 1, 32));
    for (std::int64_t from = 0; from < frames; from += at_once) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing of the film is left.", file.string());
        const std::int64_t count = std::min(at_once, frames - from);
        for (std::int64_t k = 0; k < count; ++k)
            camera.draw(plan.time_s.begin + static_cast<double>(from + k) / plan.frames_per_s * plan.clock_rate,
                        film->pixels().subspan(static_cast<std::size_t>(k) * size, size));
        if (auto done = film->put(from, static_cast<std::size_t>(count)); !done) return done;
        job.report(static_cast<double>(from) / static_cast<double>(frames));
    }
    return film->finish();
}

}  // namespace rendak::demo
