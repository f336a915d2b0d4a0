#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/display.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libswresample/swresample.h>
#include <libswscale/swscale.h>
}

#include <memory>
#include <string>

namespace rendak::film {

// FFmpeg's things, given back by themselves.
struct Give {
    void operator()(AVFormatContext* it) const { avformat_close_input(&it); }
    void operator()(AVCodecContext* it) const { avcodec_free_context(&it); }
    void operator()(AVFrame* it) const { av_frame_free(&it); }
    void operator()(AVPacket* it) const { av_packet_free(&it); }
    void operator()(SwsContext* it) const { sws_freeContext(it); }
    void operator()(SwrContext* it) const { swr_free(&it); }
};
using Format = std::unique_ptr<AVFormatContext, Give>;
using Codec = std::unique_ptr<AVCodecContext, Give>;
using Picture = std::unique_ptr<AVFrame, Give>;
using Packet = std::unique_ptr<AVPacket, Give>;
using Scaler = std::unique_ptr<SwsContext, Give>;
using Resampler = std::unique_ptr<SwrContext, Give>;

/// What FFmpeg says of a failure.
[[nodiscard]] inline std::string av_words(int code) {
    char text[AV_ERROR_MAX_STRING_SIZE] = {};
    av_strerror(code, text, sizeof text);
    return text;
}

}  // namespace rendak::film
