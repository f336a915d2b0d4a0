#include "core/intake/shared_track.h"

#include <algorithm>
#include <mutex>
#include <vector>

namespace rendak {
namespace {

/// The circuits of some events; about a megabyte each.
constexpr std::size_t most_remembered = 8;

struct Remembered {
    std::string text, name;
    std::shared_ptr<const Track> track;
};

class TrackMemory {
  public:
    std::shared_ptr<const Track> find(const std::string& text, const std::string& name) {
        const std::lock_guard lock(mutex_);
        return latest(text, name);
    }
    /// The one that counts: of two threads that read the same text at once, what the first has kept.
    std::shared_ptr<const Track> keep(Remembered track) {
        const std::lock_guard lock(mutex_);
        if (auto known = latest(track.text, track.name)) return known;
        if (tracks_.size() == most_remembered) tracks_.erase(tracks_.begin());
        tracks_.push_back(std::move(track));
        return tracks_.back().track;
    }

  private:
    /// Becomes the last in the row; the first is the next to be forgotten.
    std::shared_ptr<const Track> latest(const std::string& text, const std::string& name) {
        const auto it = std::find_if(tracks_.begin(), tracks_.end(),
                                     [&](const Remembered& of) { return of.name == name && of.text == text; });
        if (it == tracks_.end()) return nullptr;
        std::rotate(it, it + 1, tracks_.end());
        return tracks_.back().track;
    }

    std::mutex mutex_;
    std::vector<Remembered> tracks_;
};

TrackMemory& memory() {
    static TrackMemory only;
    return only;
}

}  // namespace

Result<std::shared_ptr<const Track>> shared_track(const Library& library, TrackId id) {
    auto text = library.track_geojson(id);
    if (!text) return pass_on(text.error());
    const auto row = library.track(id);
    // The name in the catalogue counts: a renamed track keeps its file.
    const std::string name = row ? row->name : std::string();
    if (auto known = memory().find(*text, name)) return known;
    auto read = track_from_geojson(*text, "track " + std::to_string(id.value));
    if (!read) return pass_on(read.error());
    if (row) read->name = row->name;
    return memory().keep({std::move(*text), name, std::make_shared<const Track>(std::move(*read))});
}

Result<Track> read_track(const Library& library, TrackId id) {
    const auto track = shared_track(library, id);
    if (!track) return pass_on(track.error());
    return **track;
}

}  // namespace rendak
