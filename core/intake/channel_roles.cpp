#include "core/intake/channel_roles.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/intake/run_recording.h"
#include "core/signal/quantity.h"
#include "core/track/path.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

/// How a channel follows what the path says: y ≈ scale · x, and how alike they run.
struct Agreement {
    double scale = std::nan("");        ///< through zero
    double correlation = std::nan("");  ///< of the two about their means
    double rms = std::nan("");          ///< of the difference as it stands
    std::size_t count = 0;
    [[nodiscard]] bool known() const { return count >= 40; }
};

template <class Expected>
Agreement agreement(const Channel& channel, const Path& path, const Expected& expected, double from_mps) {
    std::vector<double> x, y;
    const double last = path.time_s.back(), step = std::max(0.1, (last - path.time_s.front()) / 20'000);
    for (double t = path.time_s.front() + 0.5; t < last - 0.5; t += step) {
        const Point v = path.velocity_at(t);
        if (length(v) < from_mps || path.bridged[path.index_before(t)] != 0) continue;
        const double said = channel.value_at(t), driven = expected(t, v);
        if (!std::isfinite(said) || !std::isfinite(driven)) continue;
        x.push_back(driven);
        y.push_back(said);
    }
    Agreement out;
    out.count = x.size();
    if (!out.known()) return out;
    const auto n = static_cast<double>(x.size());
    double sx = 0, sy = 0, sxx = 0, syy = 0, sxy = 0, off = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        sx += x[i];
        sy += y[i];
        sxx += x[i] * x[i];
        syy += y[i] * y[i];
        sxy += x[i] * y[i];
        off += (y[i] - x[i]) * (y[i] - x[i]);
    }
    out.scale = sxx > 0 ? sxy / sxx : std::nan("");
    out.rms = std::sqrt(off / n);
    const double spread = (n * sxx - sx * sx) * (n * syy - sy * sy);
    out.correlation = spread > 0 ? (n * sxy - sx * sy) / std::sqrt(spread) : 0;
    return out;
}

/// Finite samples, how fast, and how noisy: what makes one of two like channels the better one.
struct Quality {
    double there_s = 0;  ///< for so long it holds something
    bool alive = false;
    double rate_hz = 0, noise = 0;
};
Quality quality_of(const Channel& channel) {
    Quality out;
    const std::size_t stride = std::max<std::size_t>(1, channel.size() / 20'000);
    std::size_t there = 0, looked = 0;
    double low = 1e300, high = -1e300;
    std::vector<double> bends;
    for (std::size_t i = 0; i < channel.size(); i += stride, ++looked) {
        const double value = channel.at(i);
        if (!std::isfinite(value)) continue;
        ++there;
        low = std::min(low, value);
        high = std::max(high, value);
        if (i + 3 < channel.size())
            bends.push_back(std::abs(channel.at(i + 3) - value - 3 * (channel.at(i + 2) - channel.at(i + 1))));
    }
    out.alive = high > low;
    out.rate_hz = channel.clock.mean_rate_hz();
    out.there_s = looked > 0 && out.rate_hz > 0 ? static_cast<double>(there) / static_cast<double>(looked) *
                                                      static_cast<double>(channel.size()) / out.rate_hz
                                                : 0;
    std::erase_if(bends, [](double bend) { return !std::isfinite(bend); });
    out.noise = bends.empty() ? 0 : median_of(std::move(bends));
    return out;
}

/// Better first, whatever the order in the file was.
bool better(const Channel& a, const Channel& b) {
    const Quality qa = quality_of(a), qb = quality_of(b);
    if (qa.alive != qb.alive) return qa.alive;
    if (std::abs(qa.there_s - qb.there_s) > 0.1 * std::max(qa.there_s, qb.there_s)) return qa.there_s > qb.there_s;
    if (std::abs(qa.rate_hz - qb.rate_hz) > 0.1 * std::max(qa.rate_hz, qb.rate_hz)) return qa.rate_hz > qb.rate_hz;
    return folded(a.name) != folded(b.name) ? folded(a.name) < folded(b.name) : a.name < b.name;
}

bool names_receiver(const Channel& channel) {
    const std::string name = lower(channel.name);
    return name.find("gps") != std::string::npos || name.find("gnss") != std::string::npos;
}

std::string quoted(const Channel& channel) {
    return "\"" + channel.name + "\"";
}

class Roles {
  public:
    explicit Roles(const Recording& recording) : recording_(recording) {
        for (const Channel& channel : recording.channels) {
            if (!channel.quantity.empty() && channel.size() > 0) candidates_[channel.quantity].push_back(&channel);
        }
        for (auto& [quantity, channels] : candidates_)
            std::sort(channels.begin(), channels.end(),
                      [](const Channel* a, const Channel* b) { return better(*a, *b); });
    }

    ChannelRoles all() {
        positions();
        if (auto path = path_of(used(), {}, Fuse::positions_only); path && path->size() > 200) path_ = std::move(*path);
        speed();
        accelerations();
        for (const auto& [quantity, channels] : candidates_) {
            if (settled_.contains(quantity)) continue;
            for (std::size_t k = 1; k < channels.size(); ++k)
                name_only(*channels[k], quoted(*channels[0]) + " holds more of it");
        }
        return std::move(out_);
    }

  private:
    void say(std::string note) { out_.notes.push_back(std::move(note)); }
    ChannelEdit& edit(const Channel& channel, const std::string& why) {
        for (ChannelEdit& it : out_.edits) {
            if (it.channel == channel.name) return it;
        }
        out_.edits.push_back({channel.name});
        out_.edits.back().source = why;
        return out_.edits.back();
    }
    void name_only(const Channel& channel, const std::string& why) { edit(channel, why).quantity = ""; }

    /// The recording with only the chosen positions, for a path.
    Recording used() const {
        Recording out = recording_;
        std::erase_if(out.channels, [&](const Channel& channel) {
            return std::any_of(out_.edits.begin(), out_.edits.end(), [&](const ChannelEdit& it) {
                return it.channel == channel.name && it.quantity && it.quantity->empty();
            });
        });
        // An hour says enough.
        const Interval span = out.span_s();
        return span.length() > 5000 ? cut_to(out, {span.begin, span.begin + 3600}) : out;
    }

    /// Latitude and longitude belong together: the pair of one clock that holds more, then the quieter one.
    void positions() {
        auto &north = candidates_["latitude"], &east = candidates_["longitude"];
        settled_["latitude"] = settled_["longitude"] = true;
        if (north.size() < 2 && east.size() < 2) return;
        const Channel *best_north = nullptr, *best_east = nullptr;
        double most = -1;
        for (const Channel* a : north) {
            for (const Channel* b : east) {
                if (a->size() != b->size() || a->clock.start_s != b->clock.start_s) continue;
                const Quality qa = quality_of(*a), qb = quality_of(*b);
                if (!qa.alive || !qb.alive) continue;
                const double score = std::min(qa.there_s, qb.there_s) / (1 + 2e4 * (qa.noise + qb.noise));
                if (score <= most * 1.0001) continue;
                most = score;
                best_north = a;
                best_east = b;
            }
        }
        if (best_north == nullptr) return;
        say("Several channels are called like positions: " + quoted(*best_north) + " and " + quoted(*best_east) +
            " are used; they are there longest and quietest.");
        for (const auto* list : {&north, &east}) {
            for (const Channel* channel : *list) {
                if (channel != best_north && channel != best_east)
                    name_only(*channel, "other positions are there longer and quieter");
            }
        }
    }

    /// "km/h" for a speed whose values are 3.6 times what they should be read as, and so on.
    void put_unit_right(const Channel& channel, double scale, std::span<const std::pair<const char*, double>> units,
                        const std::string& against) {
        const auto said = channel.source_unit.empty() ? channel.unit : channel.source_unit;
        double read_as = 0;
        for (const auto& [name, per_si] : units) {
            if (said == name) read_as = per_si;
        }
        if (read_as == 0) return;
        for (const auto& [name, per_si] : units) {
            // Logged values are `scale · read_as` a unit of SI: is that another unit's?
            if (name == said || std::abs(scale * read_as / per_si - 1) > 0.04 || std::abs(scale - 1) < 0.1) continue;
            edit(channel, "its values are in " + std::string(name) + " by " + against).unit = name;
            say(quoted(channel) + " says " + said + ", but its values are in " + name + " by " + against +
                "; they are taken as " + name + ".");
            return;
        }
    }

    void speed() {
        settled_["speed"] = true;
        auto& channels = candidates_["speed"];
        if (channels.empty()) return;
        std::vector<std::pair<double, const Channel*>> ranked;
        std::map<const Channel*, Agreement> found;
        if (path_) {
            for (const Channel* channel : channels) {
                const Agreement it = agreement(
                    *channel, *path_, [](double, Point v) { return length(v); }, 5);
                found[channel] = it;
                if (it.known()) ranked.emplace_back(it.rms, channel);
            }
        }
        if (ranked.empty()) {
            if (channels.size() < 2) return;
            // No positions to hold them against: a receiver's own speed, as it says itself; else nobody knows.
            const auto own =
                std::find_if(channels.begin(), channels.end(), [](const Channel* c) { return names_receiver(*c); });
            const Channel* chosen = own == channels.end() ? channels.front() : *own;
            if (own == channels.end()) {
                ChannelRoles::Question question{"speed", {chosen->name}};
                for (const Channel* channel : channels) {
                    if (channel != chosen) question.channels.push_back(channel->name);
                }
                out_.questions.push_back(std::move(question));
                say("Which channel is the car's speed cannot be told without positions: " + quoted(*chosen) +
                    " is used until somebody says otherwise.");
            }
            others_than(*chosen, channels, found);
            return;
        }
        std::stable_sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) {
            // As good as each other: the receiver's own.
            const bool alike = std::abs(a.first - b.first) < 0.05 + 0.1 * std::min(a.first, b.first);
            if (alike && names_receiver(*a.second) != names_receiver(*b.second)) return names_receiver(*a.second);
            return alike ? false : a.first < b.first;
        });
        const Channel& chosen = *ranked.front().second;
        const Agreement& it = found[&chosen];
        if (channels.size() > 1)
            say("The speed is " + quoted(chosen) + ": of " + std::to_string(channels.size()) +
                " that could be it, it agrees best with how the position changes.");
        others_than(chosen, channels, found);
        static constexpr std::pair<const char*, double> units[] = {
            {"m/s", 1}, {"km/h", 3.6}, {"mph", 1 / 0.44704}, {"kn", 3600 / 1852.0}};
        put_unit_right(chosen, it.scale, units, "the change of position");
        tell_scale(chosen, it);
    }

    void tell_scale(const Channel& channel, const Agreement& it) {
        if (!it.known() || std::abs(it.scale - 1) < 0.01 || std::abs(it.scale - 1) > 0.3 || it.correlation < 0.9)
            return;
        say(quoted(channel) + " reads " + fixed(100 * std::abs(it.scale - 1), 1) + " % " +
            (it.scale > 1 ? "high" : "low") + " against the change of position.");
    }

    /// One of the other speeds is the wheels'; the rest keep their names only.
    void others_than(const Channel& chosen, const std::vector<const Channel*>& channels,
                     std::map<const Channel*, Agreement>& found) {
        bool wheels = !candidates_["wheel_speed"].empty();
        for (const Channel* channel : channels) {
            if (channel == &chosen) continue;
            edit(*channel, quoted(chosen) + " is the reference").quantity = wheels ? "" : "wheel_speed";
            wheels = true;
            tell_scale(*channel, found[channel]);
        }
    }

    /// The channel of several that follows the path best; a unit that the values contradict is put right.
    void accelerations() {
        if (!path_) return;
        const Path& path = *path_;
        const auto turned = [&](double t) {
            return (path.velocity_at(t + 0.3) - path.velocity_at(t - 0.3)) * (1 / 0.6);
        };
        const auto sideways = [&](double t, Point v) { return cross(unit(v), turned(t)); };
        const auto along = [&](double t, Point v) { return dot(unit(v), turned(t)); };
        const auto yaw = [&](double t, Point v) { return cross(unit(v), turned(t)) / length(v); };
        swap_axes(sideways, along);
        static constexpr std::pair<const char*, double> accelerations[] = {{"m/s²", 1},
                                                                           {"g", 1 / standard_gravity_mps2}};
        static constexpr std::pair<const char*, double> rates[] = {{"rad/s", 1}, {"deg/s", 180 / 3.14159265358979}};
        one_of("lateral_acceleration", sideways, accelerations);
        one_of("longitudinal_acceleration", along, accelerations);
        one_of("yaw_rate", yaw, rates);
    }

    /// A logger that was mounted a quarter turn round: what it calls along is across.
    template <class Sideways, class Along>
    void swap_axes(const Sideways& sideways, const Along& along) {
        auto &lateral = candidates_["lateral_acceleration"], &longitudinal = candidates_["longitudinal_acceleration"];
        if (lateral.size() != 1 || longitudinal.size() != 1) return;
        const auto how = [&](const Channel& channel, const auto& expected) {
            const Agreement it = agreement(channel, *path_, expected, 8);
            return it.known() ? std::abs(it.correlation) : std::nan("");
        };
        const Channel &a = *lateral[0], &b = *longitudinal[0];
        if (!(how(a, sideways) < 0.4 && how(b, along) < 0.4 && how(a, along) > 0.6 && how(b, sideways) > 0.6)) return;
        const std::string why = "the change of position says so";
        edit(a, why).quantity = "longitudinal_acceleration";
        edit(b, why).quantity = "lateral_acceleration";
        say(quoted(a) + " feels the car gain and lose speed, " + quoted(b) +
            " feels it turn: the two are taken for each other, as if the logger were mounted a quarter turn round.");
        settled_["lateral_acceleration"] = settled_["longitudinal_acceleration"] = true;
    }

    template <class Expected, std::size_t n>
    void one_of(const std::string& quantity, const Expected& expected,
                const std::pair<const char*, double> (&units)[n]) {
        if (settled_.contains(quantity)) return;
        auto& channels = candidates_[quantity];
        if (channels.empty()) return;
        settled_[quantity] = true;
        const Channel* chosen = channels.front();
        Agreement best;
        for (const Channel* channel : channels) {
            const Agreement it = agreement(*channel, *path_, expected, 8);
            const bool closer =
                it.known() && (!best.known() || std::abs(it.correlation) > std::abs(best.correlation) + 0.02);
            if (!closer) continue;
            best = it;
            chosen = channel;
        }
        for (const Channel* channel : channels) {
            if (channel != chosen) name_only(*channel, quoted(*chosen) + " agrees better with the change of position");
        }
        if (channels.size() > 1)
            say(std::string(find_quantity(quantity)->label) + " is " + quoted(*chosen) +
                ": it agrees best with how the position changes.");
        if (best.known() && std::abs(best.correlation) > 0.7)
            put_unit_right(*chosen, std::abs(best.scale), units, "the change of position");
    }

    const Recording& recording_;
    std::map<std::string, std::vector<const Channel*>> candidates_;
    std::map<std::string, bool> settled_;
    std::optional<Path> path_;
    ChannelRoles out_;
};

}  // namespace

ChannelRoles channel_roles(const Recording& recording) {
    return Roles(recording).all();
}

}  // namespace rendak
