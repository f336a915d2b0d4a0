#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>

#include "core/base/result.h"
#include "core/video/film_facts.h"
#include "film/av.h"

namespace rendak::film {

/// Writes a film frame by frame. Nothing is at its place until finish(): until then the file has another name, and what
/// was not finished is taken away.
class Writer {
  public:
    [[nodiscard]] static Result<Writer> begin(const FilmWish& wish);
    Writer(Writer&&) = default;
    Writer& operator=(Writer&&) = default;
    ~Writer();

    /// Blue, green, red, nothing of the next frame; `at` in frames from the first one on, rising.
    [[nodiscard]] Result<void> picture(std::span<const std::uint8_t> bgra, std::int64_t at);
    [[nodiscard]] std::size_t picture_bytes() const {
        return static_cast<std::size_t>(wish_.width) * static_cast<std::size_t>(wish_.height) * 4;
    }
    [[nodiscard]] Result<void> sound(std::span<const float> mono);
    [[nodiscard]] Result<void> finish();
    /// "H.264 and AAC in MP4"
    [[nodiscard]] const std::string& coded_as() const { return coded_as_; }

  private:
    Writer() = default;
    [[nodiscard]] Result<void> add_sound();
    [[nodiscard]] Result<void> send(AVCodecContext& codec, const AVFrame* frame, AVStream& stream);
    [[nodiscard]] Result<void> send_sound(bool all);
    [[nodiscard]] Error failed(const std::string& what, int code) const;

    struct GiveOutput {
        void operator()(AVFormatContext* it) const;
    };
    std::unique_ptr<AVFormatContext, GiveOutput> format_;
    FilmWish wish_;
    std::string partial_, coded_as_;
    Codec pictures_, sounds_;
    AVStream *picture_stream_ = nullptr, *sound_stream_ = nullptr;
    Picture picture_, sound_frame_;
    Packet packet_;
    Scaler scaler_;
    std::vector<float> waiting_;
    std::int64_t samples_ = 0;
    bool finished_ = false;
};

}  // namespace rendak::film
