#include "film/writer.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <vector>

namespace rendak::film {
namespace {

/// The first of these encoders that there is.
const AVCodec* first_of(const std::vector<const char*>& names) {
    for (const char* name : names)
        if (const AVCodec* found = avcodec_find_encoder_by_name(name)) return found;
    return nullptr;
}

std::string codec_title(AVCodecID id) {
    switch (id) {
        case AV_CODEC_ID_H264:
            return "H.264";
        case AV_CODEC_ID_HEVC:
            return "HEVC";
        case AV_CODEC_ID_MPEG4:
            return "MPEG-4";
        case AV_CODEC_ID_MJPEG:
            return "MJPEG";
        case AV_CODEC_ID_AAC:
            return "AAC";
        case AV_CODEC_ID_MP3:
            return "MP3";
        default:
            return avcodec_get_name(id);
    }
}

}  // namespace

void Writer::GiveOutput::operator()(AVFormatContext* it) const {
    if (it->pb != nullptr) avio_closep(&it->pb);
    avformat_free_context(it);
}

Error Writer::failed(const std::string& what, int code) const {
    if (code == AVERROR(ENOSPC))
        return Error{ErrorCode::io, "The disk is full: the film was not written, and nothing of it is left.",
                     wish_.file};
    return Error{ErrorCode::io, what + ": " + av_words(code) + ".", wish_.file};
}

Result<Writer> Writer::begin(const FilmWish& wish) {
    Writer out;
    out.wish_ = wish;
    const auto dot = wish.file.rfind('.');
    out.partial_ =
        dot == std::string::npos ? wish.file + ".part" : wish.file.substr(0, dot) + ".part" + wish.file.substr(dot);
    if (wish.width < 2 || wish.height < 2 || wish.width % 2 != 0 || wish.height % 2 != 0)
        return fail(ErrorCode::bad_input, "A film's width and height are even numbers of pixels.", wish.file);
    AVFormatContext* format = nullptr;
    if (const int code = avformat_alloc_output_context2(&format, nullptr, nullptr, wish.file.c_str()); code < 0)
        return fail(ErrorCode::bad_input, "A film is called .mp4, .mov, .mkv or .avi.", wish.file);
    out.format_.reset(format);
    // What is moved to the front at the end is read again from there.
    av_free(format->url);
    format->url = av_strdup(("file:" + out.partial_).c_str());
    const AVCodec* codec =
        wish.codec.empty() ? first_of({"libx264", "libopenh264", "mpeg4"}) : first_of({wish.codec.c_str()});
    if (codec == nullptr)
        return fail(ErrorCode::bad_input, "FFmpeg's libraries here have no encoder for films.", wish.file);
    Codec pictures(avcodec_alloc_context3(codec));
    AVCodecContext& it = *pictures;
    it.width = wish.width;
    it.height = wish.height;
    const AVRational rate = av_d2q(wish.frames_per_s, 100000);
    it.time_base = av_inv_q(rate);
    it.framerate = rate;
    it.pix_fmt = codec->id == AV_CODEC_ID_MJPEG ? AV_PIX_FMT_YUVJ420P : AV_PIX_FMT_YUV420P;
    it.color_range = codec->id == AV_CODEC_ID_MJPEG ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
    it.colorspace = wish.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
    it.gop_size = wish.gop > 0 ? wish.gop : std::max(1, static_cast<int>(std::lround(2 * wish.frames_per_s)));
    it.flags |= AV_CODEC_FLAG_BITEXACT;
    it.thread_count = 2;
    if (format->oformat->flags & AVFMT_GLOBALHEADER) it.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    AVDictionary* options = nullptr;
    if (codec->id == AV_CODEC_ID_H264) {
        av_dict_set_int(&options, "crf", wish.quality, 0);
        av_dict_set(&options, "preset", "veryfast", 0);  // rather quick than small: somebody waits for it
    } else {
        it.flags |= AV_CODEC_FLAG_QSCALE;
        it.global_quality = FF_QP2LAMBDA * std::clamp((wish.quality - 11) / 3, 2, 20);
    }
    const int opened = avcodec_open2(&it, codec, &options);
    av_dict_free(&options);
    if (opened < 0) return pass_on(out.failed("The encoder cannot be started", opened));
    out.picture_stream_ = avformat_new_stream(format, nullptr);
    if (out.picture_stream_ == nullptr) return fail(ErrorCode::io, "There is no memory left.", wish.file);
    out.picture_stream_->time_base = it.time_base;
    out.picture_stream_->avg_frame_rate = rate;
    avcodec_parameters_from_context(out.picture_stream_->codecpar, &it);
    out.pictures_ = std::move(pictures);
    out.coded_as_ = codec_title(codec->id);
    if (wish.sound_hz > 0) {
        if (auto done = out.add_sound(); !done) return pass_on(done.error());
    }
    format->flags |= AVFMT_FLAG_BITEXACT;
    if (!wish.start.empty()) av_dict_set(&format->metadata, "creation_time", wish.start.c_str(), 0);
    if (const int code = avio_open(&format->pb, ("file:" + out.partial_).c_str(), AVIO_FLAG_WRITE); code < 0)
        return pass_on(out.failed("The film cannot be written there", code));
    AVDictionary* how = nullptr;
    av_dict_set(&how, "movflags", "+faststart", 0);
    const int code = avformat_write_header(format, &how);
    av_dict_free(&how);
    if (code < 0) return pass_on(out.failed("The film cannot be begun", code));
    out.picture_.reset(av_frame_alloc());
    out.picture_->format = out.pictures_->pix_fmt;
    out.picture_->width = wish.width;
    out.picture_->height = wish.height;
    if (av_frame_get_buffer(out.picture_.get(), 0) < 0)
        return fail(ErrorCode::io, "There is no memory left.", wish.file);
    out.packet_.reset(av_packet_alloc());
    return out;
}

Result<void> Writer::add_sound() {
    const AVCodec* codec = first_of({"aac", "libmp3lame", "ac3"});
    if (codec == nullptr) {
        wish_.sound_hz = 0;
        return {};
    }
    Codec sounds(avcodec_alloc_context3(codec));
    sounds->sample_rate = wish_.sound_hz;
    sounds->ch_layout = AV_CHANNEL_LAYOUT_MONO;
    sounds->sample_fmt = codec->sample_fmts != nullptr ? codec->sample_fmts[0] : AV_SAMPLE_FMT_FLTP;
    sounds->bit_rate = 96'000;
    sounds->time_base = {1, wish_.sound_hz};
    sounds->flags |= AV_CODEC_FLAG_BITEXACT;
    if (format_->oformat->flags & AVFMT_GLOBALHEADER) sounds->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    AVDictionary* options = nullptr;
    // Else FFmpeg's own AAC weighs every band again and again: longer than the pictures of a small film take.
    if (codec->id == AV_CODEC_ID_AAC) av_dict_set(&options, "aac_coder", "fast", 0);
    const int opened = avcodec_open2(sounds.get(), codec, &options);
    av_dict_free(&options);
    if (opened < 0) return pass_on(failed("The encoder of the sound cannot be started", opened));
    sound_stream_ = avformat_new_stream(format_.get(), nullptr);
    if (sound_stream_ == nullptr) return fail(ErrorCode::io, "There is no memory left.", wish_.file);
    sound_stream_->time_base = sounds->time_base;
    avcodec_parameters_from_context(sound_stream_->codecpar, sounds.get());
    sounds_ = std::move(sounds);
    coded_as_ += " and " + codec_title(codec->id);
    return {};
}

Result<void> Writer::send(AVCodecContext& codec, const AVFrame* frame, AVStream& stream) {
    if (const int code = avcodec_send_frame(&codec, frame); code < 0 && code != AVERROR_EOF)
        return pass_on(failed("A frame cannot be coded", code));
    while (avcodec_receive_packet(&codec, packet_.get()) >= 0) {
        av_packet_rescale_ts(packet_.get(), codec.time_base, stream.time_base);
        packet_->stream_index = stream.index;
        if (packet_->duration == 0 && &stream == picture_stream_)
            packet_->duration = av_rescale_q(1, codec.time_base, stream.time_base);
        const int code = av_interleaved_write_frame(format_.get(), packet_.get());
        if (code < 0) return pass_on(failed("The film cannot be written on", code));
    }
    if (format_->pb->error < 0) return pass_on(failed("The film cannot be written on", format_->pb->error));
    return {};
}

Result<void> Writer::picture(std::span<const std::uint8_t> bgra, std::int64_t at) {
    if (bgra.size() < picture_bytes())
        return fail(ErrorCode::bad_input, "A frame is too small for the film.", wish_.file);
    if (av_frame_make_writable(picture_.get()) < 0) return fail(ErrorCode::io, "There is no memory left.", wish_.file);
    if (!scaler_) {
        // Once: telling it the colours takes as long as a small frame.
        scaler_.reset(sws_getContext(wish_.width, wish_.height, AV_PIX_FMT_BGRA, wish_.width, wish_.height,
                                     static_cast<AVPixelFormat>(picture_->format), SWS_FAST_BILINEAR, nullptr, nullptr,
                                     nullptr));
        if (!scaler_) return fail(ErrorCode::io, "There is no memory left.", wish_.file);
        const int* table = sws_getCoefficients(pictures_->colorspace);
        const int full = picture_->format == AV_PIX_FMT_YUVJ420P ? 1 : 0;
        sws_setColorspaceDetails(scaler_.get(), table, 1, table, full, 0, 1 << 16, 1 << 16);
    }
    const std::uint8_t* source[4] = {bgra.data(), nullptr, nullptr, nullptr};
    const int stride[4] = {wish_.width * 4, 0, 0, 0};
    sws_scale(scaler_.get(), source, stride, 0, wish_.height, picture_->data, picture_->linesize);
    picture_->pts = at;
    if (pictures_->flags & AV_CODEC_FLAG_QSCALE) picture_->quality = pictures_->global_quality;
    return send(*pictures_, picture_.get(), *picture_stream_);
}

Result<void> Writer::sound(std::span<const float> mono) {
    if (!sounds_) return {};
    waiting_.insert(waiting_.end(), mono.begin(), mono.end());
    return send_sound(false);
}

Result<void> Writer::send_sound(bool all) {
    const auto block = static_cast<std::size_t>(sounds_->frame_size > 0 ? sounds_->frame_size : 1024);
    std::size_t from = 0;
    while (waiting_.size() - from >= block || (all && waiting_.size() > from)) {
        const std::size_t count = std::min(block, waiting_.size() - from);
        Picture frame(av_frame_alloc());
        frame->nb_samples = static_cast<int>(count);
        frame->format = sounds_->sample_fmt;
        frame->ch_layout = sounds_->ch_layout;
        frame->sample_rate = sounds_->sample_rate;
        if (av_frame_get_buffer(frame.get(), 0) < 0) return fail(ErrorCode::io, "There is no memory left.", wish_.file);
        SwrContext* made = nullptr;
        if (swr_alloc_set_opts2(&made, &sounds_->ch_layout, sounds_->sample_fmt, sounds_->sample_rate,
                                &sounds_->ch_layout, AV_SAMPLE_FMT_FLT, sounds_->sample_rate, 0, nullptr) < 0)
            return fail(ErrorCode::io, "There is no memory left.", wish_.file);
        const Resampler as_wanted(made);
        const auto* source = reinterpret_cast<const std::uint8_t*>(waiting_.data() + from);
        if (swr_init(made) < 0 ||
            swr_convert(made, frame->data, static_cast<int>(count), &source, static_cast<int>(count)) < 0)
            return fail(ErrorCode::io, "The sound cannot be coded.", wish_.file);
        frame->pts = samples_;
        samples_ += static_cast<std::int64_t>(count);
        from += count;
        if (auto done = send(*sounds_, frame.get(), *sound_stream_); !done) return done;
    }
    waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(from));
    return {};
}

Result<void> Writer::finish() {
    if (sounds_) {
        if (auto done = send_sound(true); !done) return done;
    }
    if (auto done = send(*pictures_, nullptr, *picture_stream_); !done) return done;
    if (sounds_) {
        if (auto done = send(*sounds_, nullptr, *sound_stream_); !done) return done;
    }
    if (const int code = av_write_trailer(format_.get()); code < 0)
        return pass_on(failed("The film cannot be finished", code));
    if (const int code = avio_closep(&format_->pb); code < 0)
        return pass_on(failed("The film cannot be finished", code));
    if (std::rename(partial_.c_str(), wish_.file.c_str()) != 0)
        return fail(ErrorCode::io, "The film cannot be given its name.", wish_.file);
    finished_ = true;
    return {};
}

Writer::~Writer() {
    if (format_ != nullptr && !finished_ && !partial_.empty()) {
        format_.reset();
        std::remove(partial_.c_str());
    }
}

}  // namespace rendak::film
