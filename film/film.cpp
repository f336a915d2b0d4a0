#include "film/film.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <ctime>

namespace rendak::film {
namespace {

constexpr std::size_t most_kept = 16, most_frames = 4'000'000;
constexpr int most_side = 16384;

/// Cameras write these; playlists and the like, which would open other files, are no films.
constexpr const char* containers =
    "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,mpegvideo,h264,hevc,m4v,mjpeg,asf,flv";

int turn_of(const AVStream& stream) {
    const auto* matrix =
        reinterpret_cast<const std::int32_t*>(av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, nullptr));
    if (matrix == nullptr) return 0;
    const double turned = -av_display_rotation_get(matrix);
    if (!std::isfinite(turned)) return 0;
    return ((static_cast<int>(std::lround(turned / 90)) * 90) % 360 + 360) % 360;
}

Result<Codec> decoder_of(const AVStream& stream, const std::string& file) {
    const AVCodec* codec = avcodec_find_decoder(stream.codecpar->codec_id);
    if (codec == nullptr)
        return fail(ErrorCode::bad_input,
                    std::string("Its pictures are coded as ") + avcodec_get_name(stream.codecpar->codec_id) +
                        ", which FFmpeg's libraries here cannot decode.",
                    file);
    Codec out(avcodec_alloc_context3(codec));
    if (!out || avcodec_parameters_to_context(out.get(), stream.codecpar) < 0)
        return fail(ErrorCode::bad_input, "What the file says of its pictures cannot be read.", file);
    out->thread_count = 2;
    out->pkt_timebase = stream.time_base;
    if (const int code = avcodec_open2(out.get(), codec, nullptr); code < 0)
        return fail(ErrorCode::bad_input, "Its pictures cannot be decoded: " + av_words(code) + ".", file);
    return out;
}

/// Date and time of the filming as seconds since 1970, where the file says it.
std::optional<double> start_of(const AVFormatContext& format) {
    const AVDictionaryEntry* said = av_dict_get(format.metadata, "creation_time", nullptr, 0);
    if (said == nullptr) return std::nullopt;
    int year = 0, month = 0, day = 0, hour = 0, minute = 0;
    double second = 0;
    if (std::sscanf(said->value, "%d-%d-%dT%d:%d:%lf", &year, &month, &day, &hour, &minute, &second) != 6)
        return std::nullopt;
    // Cameras without a set clock say 1904 or 1970.
    if (year < 1990 || month < 1 || month > 12 || day < 1 || day > 31) return std::nullopt;
    tm when{};
    when.tm_year = year - 1900;
    when.tm_mon = month - 1;
    when.tm_mday = day;
    when.tm_hour = hour;
    when.tm_min = minute;
    return static_cast<double>(timegm(&when)) + second;
}

Result<Part> open_part(const std::string& file) {
    AVFormatContext* opened = avformat_alloc_context();
    if (opened == nullptr) return fail(ErrorCode::io, "There is no memory left.", file);
    opened->format_whitelist = av_strdup(containers);
    opened->protocol_whitelist = av_strdup("file");
    if (const int code = avformat_open_input(&opened, ("file:" + file).c_str(), nullptr, nullptr); code < 0) {
        if (code == AVERROR(ENOENT) || code == AVERROR(EACCES))
            return fail(ErrorCode::io, "The film cannot be opened: " + av_words(code) + ".", file);
        return fail(
            ErrorCode::bad_input,
            "This is no film that can be read, or it was cut off while the camera wrote it: " + av_words(code) + ".",
            file);
    }
    Part out;
    out.file = file;
    out.format.reset(opened);
    opened->max_analyze_duration = 5 * AV_TIME_BASE;
    if (const int code = avformat_find_stream_info(opened, nullptr); code < 0)
        return fail(ErrorCode::bad_input, "The film cannot be read: " + av_words(code) + ".", file);
    out.video = av_find_best_stream(opened, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
    if (out.video < 0) return fail(ErrorCode::bad_input, "There are no pictures in this file.", file);
    out.sound = av_find_best_stream(opened, AVMEDIA_TYPE_AUDIO, -1, out.video, nullptr, 0);
    const AVCodecParameters& facts = *opened->streams[out.video]->codecpar;
    if (facts.width < 1 || facts.height < 1 || facts.width > most_side || facts.height > most_side)
        return fail(ErrorCode::bad_input, "The film does not say how large its pictures are.", file);
    for (unsigned k = 0; k < opened->nb_streams; ++k)
        if (static_cast<int>(k) != out.video && static_cast<int>(k) != out.sound)
            opened->streams[k]->discard = AVDISCARD_ALL;
    auto decoder = decoder_of(*opened->streams[out.video], file);
    if (!decoder) return pass_on(decoder.error());
    out.decoder = std::move(*decoder);
    return out;
}

}  // namespace

Result<Film> Film::open(const std::vector<std::string>& files) {
    if (files.empty()) return fail(ErrorCode::bad_input, "There is no file to open.");
    Film out;
    for (const std::string& file : files) {
        auto part = open_part(file);
        if (!part) return pass_on(part.error());
        out.parts_.push_back(std::move(*part));
        if (const auto done = out.read_through(out.parts_.size() - 1); !done) return pass_on(done.error());
    }
    const Part& first = out.parts_.front();
    const AVStream& stream = *first.format->streams[first.video];
    FilmFacts& facts = out.facts_;
    facts.turned_deg = turn_of(stream);
    int width = stream.codecpar->width;
    const int height = stream.codecpar->height;
    const AVRational pixel =
        av_guess_sample_aspect_ratio(first.format.get(), first.format->streams[first.video], nullptr);
    if (pixel.num > 0 && pixel.den > 0) {
        const double wide = width * av_q2d(pixel);
        if (wide >= 16 && wide <= most_side) width = static_cast<int>(std::lround(wide));
    }
    facts.width = facts.turned_deg % 180 == 0 ? width : height;
    facts.height = facts.turned_deg % 180 == 0 ? height : width;
    facts.codec = avcodec_get_name(stream.codecpar->codec_id);
    facts.container = first.format->iformat->name;
    facts.frames = out.index_.size();
    std::vector<double> steps;
    for (std::size_t i = 1; i < out.index_.size(); ++i)
        steps.push_back(out.index_[i].time_s - out.index_[i - 1].time_s);
    double step = 0.04;
    if (!steps.empty()) {
        std::vector<double> sorted = steps;
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2), sorted.end());
        step = sorted[sorted.size() / 2];
        facts.even = std::all_of(steps.begin(), steps.end(),
                                 [&](double it) { return std::abs(it - step) < 0.1 * step + 0.0011; });
    }
    facts.duration_s = out.index_.back().time_s + step;
    facts.frames_per_s = static_cast<double>(facts.frames) / facts.duration_s;
    for (const Part& part : out.parts_) facts.part_begin_s.push_back(part.begin_s);
    if (first.sound >= 0) {
        facts.sound = true;
        facts.sound_hz = first.format->streams[first.sound]->codecpar->sample_rate;
    }
    facts.start_unix_s = start_of(*first.format);
    return out;
}

Result<void> Film::read_through(std::size_t number) {
    Part& part = parts_[number];
    const AVStream& stream = *part.format->streams[part.video];
    struct Seen {
        std::int64_t pts, dts;
        bool key;
    };
    std::vector<Seen> seen;
    int code = 0;
    while ((code = av_read_frame(part.format.get(), packet_.get())) >= 0) {
        if (packet_->stream_index == part.video && (packet_->flags & AV_PKT_FLAG_DISCARD) == 0) {
            const std::int64_t pts = packet_->pts != AV_NOPTS_VALUE ? packet_->pts : packet_->dts;
            const std::int64_t dts = packet_->dts != AV_NOPTS_VALUE ? packet_->dts : packet_->pts;
            if (pts != AV_NOPTS_VALUE) seen.push_back({pts, dts, (packet_->flags & AV_PKT_FLAG_KEY) != 0});
        }
        av_packet_unref(packet_.get());
        if (seen.size() > most_frames)
            return fail(ErrorCode::bad_input, "The film says that it has more frames than a day's.", part.file);
    }
    if (code != AVERROR_EOF && code < 0)
        facts_.doubt = "The file ends in the middle: what was written before can be seen.";
    std::stable_sort(seen.begin(), seen.end(), [](const Seen& a, const Seen& b) { return a.pts < b.pts; });
    seen.erase(std::unique(seen.begin(), seen.end(), [](const Seen& a, const Seen& b) { return a.pts == b.pts; }),
               seen.end());
    // What comes before the first key frame cannot be decoded.
    const auto first_key = std::find_if(seen.begin(), seen.end(), [](const Seen& it) { return it.key; });
    seen.erase(seen.begin(), first_key);
    if (seen.empty()) return fail(ErrorCode::bad_input, "There is no frame in this film that can be seen.", part.file);
    const double unit = av_q2d(stream.time_base);
    part.first_pts = seen.front().pts;
    part.first_frame = index_.size();
    if (number > 0) {
        // One after the other: it begins when the last frame before it has ended.
        const Part& before = parts_[number - 1];
        const std::size_t in_it = index_.size() - before.first_frame;
        const double step = in_it > 1 ? (index_.back().time_s - before.begin_s) / static_cast<double>(in_it - 1) : 0.04;
        part.begin_s = index_.back().time_s + step;
    }
    for (const Seen& it : seen) {
        if (it.key) part.keys.push_back(index_.size());
        index_.push_back(
            {part.begin_s + static_cast<double>(it.pts - part.first_pts) * unit, it.key, number, it.pts, it.dts});
    }
    return {};
}

/// One more decoded frame into `now_`.
bool Film::decode_on(Part& part) {
    for (;;) {
        const int got = avcodec_receive_frame(part.decoder.get(), now_.get());
        if (got >= 0) {
            part.decoded_pts = now_->best_effort_timestamp;
            return true;
        }
        if (got != AVERROR(EAGAIN)) return false;
        int read = 0;
        while ((read = av_read_frame(part.format.get(), packet_.get())) >= 0) {
            if (packet_->stream_index == part.video) break;
            av_packet_unref(packet_.get());
        }
        // A damaged packet is left out: what comes behind it may be sound.
        if (read < 0)
            avcodec_send_packet(part.decoder.get(), nullptr);
        else
            avcodec_send_packet(part.decoder.get(), packet_.get());
        av_packet_unref(packet_.get());
    }
}

std::optional<std::size_t> Film::number_of(const Part& part, std::int64_t pts) const {
    const auto place = static_cast<std::size_t>(&part - parts_.data());
    const auto from = index_.begin() + static_cast<std::ptrdiff_t>(part.first_frame);
    const auto to = place + 1 < parts_.size()
                        ? index_.begin() + static_cast<std::ptrdiff_t>(parts_[place + 1].first_frame)
                        : index_.end();
    const auto at = std::lower_bound(from, to, pts, [](const FrameAt& a, std::int64_t b) { return a.pts < b; });
    if (at == to || at->pts != pts) return std::nullopt;
    return static_cast<std::size_t>(at - index_.begin());
}

/// Whether going on from where the decoder stands is no longer way than from the key frame.
bool Film::may_go_on(const Part& part, std::size_t number, std::size_t key) const {
    if (part.decoded_pts == AV_NOPTS_VALUE || part.decoded_pts >= index_[number].pts) return false;
    if (index_[part.keys[key]].pts <= part.decoded_pts) return true;
    const auto here = number_of(part, part.decoded_pts);
    return here && number - *here <= 4;
}

Result<void> Film::jump_to(Part& part, std::size_t key) {
    const std::int64_t to = index_[part.keys[key]].key_dts;
    avcodec_flush_buffers(part.decoder.get());
    part.decoded_pts = AV_NOPTS_VALUE;
    if (avformat_seek_file(part.format.get(), part.video, INT64_MIN, to, to, 0) < 0 &&
        av_seek_frame(part.format.get(), part.video, to, AVSEEK_FLAG_BACKWARD) < 0)
        return fail(ErrorCode::bad_input, "The film cannot be moved through.", part.file);
    return {};
}

void Film::keep(std::size_t number) {
    if (kept_.size() >= most_kept) kept_.erase(kept_.begin());
    Kept kept{number, Picture(av_frame_alloc())};
    if (kept.frame && av_frame_ref(kept.frame.get(), now_.get()) >= 0) kept_.push_back(std::move(kept));
}

const AVFrame* Film::kept(std::size_t number) const {
    const auto found = std::find_if(kept_.begin(), kept_.end(), [&](const Kept& it) { return it.number == number; });
    return found == kept_.end() ? nullptr : found->frame.get();
}

Result<const AVFrame*> Film::frame(std::size_t number) {
    if (number >= index_.size()) return fail(ErrorCode::not_found, "There is no such frame.");
    if (const AVFrame* known = kept(number)) return known;
    const FrameAt& wanted = index_[number];
    Part& part = parts_[wanted.part];
    const auto behind = std::upper_bound(part.keys.begin(), part.keys.end(), number);
    auto key = static_cast<std::size_t>(std::max<std::ptrdiff_t>(behind - part.keys.begin() - 1, 0));
    // A jump can go too far, in containers without an index of their own: then from the key frame before.
    constexpr int attempts = 3;
    for (int attempt = 0; attempt < attempts; ++attempt) {
        if (attempt > 0 || !may_go_on(part, number, key)) {
            if (const auto done = jump_to(part, key); !done) return pass_on(done.error());
        }
        while (decode_on(part)) {
            const auto here = number_of(part, part.decoded_pts);
            if (here && kept(*here) == nullptr) keep(*here);
            if (part.decoded_pts >= wanted.pts) break;
        }
        if (const AVFrame* found = kept(number)) return found;
        if (key == 0) break;
        --key;
    }
    // A frame that is damaged is not there: the nearest before it would be a lie.
    part.decoded_pts = AV_NOPTS_VALUE;
    return fail(ErrorCode::bad_input, "This frame cannot be decoded; the film is damaged here.", part.file);
}

Result<void> Film::scaled(const AVFrame& frame, int width, int height, AVPixelFormat format,
                          std::span<std::uint8_t> out) {
    const int bytes = format == AV_PIX_FMT_GRAY8 ? 1 : 4;
    const std::size_t size =
        static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * static_cast<std::size_t>(bytes);
    if (width < 1 || height < 1 || out.size() < size)
        return fail(ErrorCode::bad_input, "There is no room for a picture of this size.");
    const bool lying = facts_.turned_deg % 180 != 0;
    const int w = lying ? height : width, h = lying ? width : height;
    // Telling the scaler the colours takes as long as a small frame: only where something is another one.
    const ScaledAs as{frame.width,
                      frame.height,
                      frame.format,
                      w,
                      h,
                      static_cast<int>(format),
                      static_cast<int>(frame.colorspace),
                      static_cast<int>(frame.color_range)};
    if (!scaler_ || as != scaled_as_) {
        scaler_.reset(sws_getContext(frame.width, frame.height, static_cast<AVPixelFormat>(frame.format), w, h, format,
                                     format == AV_PIX_FMT_GRAY8 ? SWS_AREA : SWS_FAST_BILINEAR, nullptr, nullptr,
                                     nullptr));
        if (!scaler_) return fail(ErrorCode::bad_input, "The film's pictures are of a kind that cannot be shown.");
        const int* table = sws_getCoefficients(frame.colorspace == AVCOL_SPC_UNSPECIFIED
                                                   ? (frame.height >= 720 ? SWS_CS_ITU709 : SWS_CS_ITU601)
                                                   : frame.colorspace);
        sws_setColorspaceDetails(scaler_.get(), table, frame.color_range == AVCOL_RANGE_JPEG ? 1 : 0, table, 1, 0,
                                 1 << 16, 1 << 16);
        scaled_as_ = as;
    }
    const bool turned = facts_.turned_deg != 0;
    if (turned) upright_.resize(size);
    std::uint8_t* target[4] = {turned ? upright_.data() : out.data(), nullptr, nullptr, nullptr};
    const int stride[4] = {w * bytes, 0, 0, 0};
    if (sws_scale(scaler_.get(), frame.data, frame.linesize, 0, frame.height, target, stride) <= 0)
        return fail(ErrorCode::bad_input, "The film's pictures are of a kind that cannot be shown.");
    if (!turned) return {};
    const auto pixel = static_cast<std::size_t>(bytes);
    for (int y = 0; y < h; ++y) {
        for (int x = 0; x < w; ++x) {
            int to_x = x, to_y = y;
            if (facts_.turned_deg == 90) {
                to_x = h - 1 - y;
                to_y = x;
            } else if (facts_.turned_deg == 180) {
                to_x = w - 1 - x;
                to_y = h - 1 - y;
            } else {
                to_x = y;
                to_y = w - 1 - x;
            }
            std::memcpy(
                out.data() + (static_cast<std::size_t>(to_y) * static_cast<std::size_t>(width) +
                              static_cast<std::size_t>(to_x)) *
                                 pixel,
                upright_.data() +
                    (static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x)) * pixel,
                pixel);
        }
    }
    return {};
}

Result<void> Film::picture(std::size_t number, int width, int height, std::span<std::uint8_t> out) {
    const auto decoded = frame(number);
    if (!decoded) return pass_on(decoded.error());
    return scaled(**decoded, width, height, AV_PIX_FMT_BGRA, out);
}

Result<void> Film::grey(std::size_t number, int width, int height, std::span<std::uint8_t> out) {
    const auto decoded = frame(number);
    if (!decoded) return pass_on(decoded.error());
    return scaled(**decoded, width, height, AV_PIX_FMT_GRAY8, out);
}

Result<std::vector<float>> Film::sound(double from_s, double seconds, int rate_hz) {
    std::vector<float> out(static_cast<std::size_t>(std::max(0.0, seconds) * rate_hz), 0.0F);
    for (Part& part : parts_) {
        if (part.sound < 0) continue;
        const std::size_t number = static_cast<std::size_t>(&part - parts_.data());
        const double part_end = number + 1 < parts_.size() ? parts_[number + 1].begin_s : facts_.duration_s;
        if (part.begin_s >= from_s + seconds || part_end <= from_s) continue;
        AVStream& stream = *part.format->streams[part.sound];
        const AVCodec* codec = avcodec_find_decoder(stream.codecpar->codec_id);
        if (codec == nullptr) continue;
        const Codec decoder(avcodec_alloc_context3(codec));
        if (!decoder || avcodec_parameters_to_context(decoder.get(), stream.codecpar) < 0 ||
            avcodec_open2(decoder.get(), codec, nullptr) < 0)
            continue;
        // Pictures are decoded from the same file: where that stands is lost.
        avcodec_flush_buffers(part.decoder.get());
        part.decoded_pts = AV_NOPTS_VALUE;
        const double unit = av_q2d(stream.time_base);
        const double video_unit = av_q2d(part.format->streams[part.video]->time_base);
        const double first_s = static_cast<double>(part.first_pts) * video_unit;  // in the file's own time
        const double want_s = std::max(from_s - part.begin_s, 0.0) + first_s;
        const auto to = static_cast<std::int64_t>((want_s - 0.1) / unit);
        if (av_seek_frame(part.format.get(), part.sound, to, AVSEEK_FLAG_BACKWARD) < 0)
            av_seek_frame(part.format.get(), part.sound, 0, AVSEEK_FLAG_BACKWARD);
        Resampler resampler;
        // Blocks follow each other without a seam unless the film's clock jumps.
        std::optional<std::int64_t> follows;
        bool done = false;
        while (!done) {
            const int read = av_read_frame(part.format.get(), packet_.get());
            if (read >= 0 && packet_->stream_index != part.sound) {
                av_packet_unref(packet_.get());
                continue;
            }
            avcodec_send_packet(decoder.get(), read >= 0 ? packet_.get() : nullptr);
            av_packet_unref(packet_.get());
            while (avcodec_receive_frame(decoder.get(), now_.get()) >= 0) {
                if (!resampler) {
                    AVChannelLayout mono = AV_CHANNEL_LAYOUT_MONO;
                    SwrContext* made = nullptr;
                    AVChannelLayout from = now_->ch_layout;
                    if (from.order == AV_CHANNEL_ORDER_UNSPEC) av_channel_layout_default(&from, from.nb_channels);
                    if (swr_alloc_set_opts2(&made, &mono, AV_SAMPLE_FMT_FLT, rate_hz, &from,
                                            static_cast<AVSampleFormat>(now_->format), now_->sample_rate, 0,
                                            nullptr) < 0)
                        return out;
                    resampler.reset(made);
                    if (swr_init(made) < 0) return out;
                }
                std::vector<float> block(
                    static_cast<std::size_t>(swr_get_out_samples(resampler.get(), now_->nb_samples)));
                auto* target = reinterpret_cast<std::uint8_t*>(block.data());
                const double at_s = static_cast<double>(now_->best_effort_timestamp) * unit - first_s + part.begin_s -
                                    static_cast<double>(swr_get_delay(resampler.get(), rate_hz)) / rate_hz;
                const int count = swr_convert(resampler.get(), &target, static_cast<int>(block.size()),
                                              const_cast<const std::uint8_t**>(now_->extended_data), now_->nb_samples);
                auto begin = static_cast<std::int64_t>(std::llround((at_s - from_s) * rate_hz));
                if (follows && std::abs(begin - *follows) < rate_hz / 100) begin = *follows;
                follows = begin + count;
                for (int k = 0; k < count; ++k) {
                    const std::int64_t place = begin + k;
                    if (place >= 0 && place < static_cast<std::int64_t>(out.size()))
                        out[static_cast<std::size_t>(place)] = block[static_cast<std::size_t>(k)];
                }
                done = begin >= static_cast<std::int64_t>(out.size());
            }
            if (read < 0) break;
        }
    }
    return out;
}

}  // namespace rendak::film
