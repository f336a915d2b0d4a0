#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/video/film_facts.h"
#include "film/av.h"

namespace rendak::film {

/// One frame of a film, by its moment: seconds from the first frame of the first file on.
struct FrameAt {
    double time_s = 0;
    bool key = false;
    // Where it lies.
    std::size_t part = 0;
    std::int64_t pts = 0;      ///< of the file's stream
    std::int64_t key_dts = 0;  ///< of a key frame, to seek by
};

/// One file of a film, open.
struct Part {
    std::string file;
    Format format;
    int video = -1, sound = -1;
    Codec decoder;
    double begin_s = 0;                         ///< of its first frame in the film
    std::int64_t first_pts = 0;                 ///< of that frame
    std::size_t first_frame = 0;                ///< its number in the film
    std::vector<std::size_t> keys;              ///< numbers of its key frames
    std::int64_t decoded_pts = AV_NOPTS_VALUE;  ///< of what the decoder gave last; none: it stands nowhere
};

/// Files that follow each other, seen as one film: any frame by its number, exactly that one.
class Film {
  public:
    /// Opens the files and reads through them once, without decoding. Fails with a sentence.
    [[nodiscard]] static Result<Film> open(const std::vector<std::string>& files);

    [[nodiscard]] const FilmFacts& facts() const { return facts_; }
    [[nodiscard]] const std::vector<FrameAt>& index() const { return index_; }

    /// The decoded frame of that number, as large as it was filmed; it lives until the next call. Going on from where
    /// the decoder stands where it can, else from the key frame before.
    [[nodiscard]] Result<const AVFrame*> frame(std::size_t number);
    /// The same as blue, green, red, nothing (4 bytes a pixel), turned as it was filmed, into `out` of width · height
    /// pixels.
    [[nodiscard]] Result<void> picture(std::size_t number, int width, int height, std::span<std::uint8_t> out);
    /// Its brightness alone, coarsely.
    [[nodiscard]] Result<void> grey(std::size_t number, int width, int height, std::span<std::uint8_t> out);
    /// Mono samples at `rate_hz` from a moment on; what has no sound is silent.
    [[nodiscard]] Result<std::vector<float>> sound(double from_s, double seconds, int rate_hz);

  private:
    [[nodiscard]] Result<void> read_through(std::size_t part);
    [[nodiscard]] bool decode_on(Part& part);
    /// Number of the frame of a time stamp.
    [[nodiscard]] std::optional<std::size_t> number_of(const Part& part, std::int64_t pts) const;
    [[nodiscard]] bool may_go_on(const Part& part, std::size_t number, std::size_t key) const;
    [[nodiscard]] Result<void> jump_to(Part& part, std::size_t key);
    void keep(std::size_t number);
    [[nodiscard]] const AVFrame* kept(std::size_t number) const;
    [[nodiscard]] Result<void> scaled(const AVFrame& frame, int width, int height, AVPixelFormat format,
                                      std::span<std::uint8_t> out);

    std::vector<Part> parts_;
    std::vector<FrameAt> index_;
    FilmFacts facts_;
    Packet packet_{av_packet_alloc()};
    Picture now_{av_frame_alloc()};
    /// Decoded last, newest last: a step back needs no second decoding.
    struct Kept {
        std::size_t number;
        Picture frame;
    };
    std::vector<Kept> kept_;
    Scaler scaler_;
    using ScaledAs = std::array<int, 8>;
    ScaledAs scaled_as_{};
    std::vector<std::uint8_t> upright_;
};

}  // namespace rendak::film
