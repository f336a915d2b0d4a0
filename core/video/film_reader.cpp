// Reading and writing films through rendak-film.
#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/video/film_json.h"
#include "core/video/film_link.h"

namespace rendak {
namespace {

using PlainJson = nlohmann::json;

/// What an answer holds, or the error that it is.
Result<PlainJson> read_answer(const Result<std::string>& text) {
    if (!text) return pass_on(text.error());
    try {
        PlainJson out = PlainJson::parse(*text);
        if (out.contains("ok")) return out.at("ok");
        return fail(static_cast<ErrorCode>(out.at("code").get<int>()), out.at("error"), out.at("where"));
    } catch (const PlainJson::exception&) {
        return fail(ErrorCode::bad_input, "The film is damaged: what was read of it makes no sense.");
    }
}

std::string text_of(const PlainJson& json) {
    return json.dump(-1, ' ', false, PlainJson::error_handler_t::replace);
}

}  // namespace

Result<FilmReader> FilmReader::open(const std::vector<std::string>& files, const JobContext& job) {
    FilmReader out;
    out.files_ = files;
    // A film of hours on a slow card is read through once.
    const auto facts = read_answer(out.link_.ask(text_of({{"do", "open"}, {"files", files}}), job, 900));
    if (!facts) {
        Error error = facts.error();
        if (error.where.empty() && !files.empty()) error.where = files.front();
        return pass_on(error);
    }
    try {
        out.facts_ = film_facts_of(*facts);
        while (out.times_s_.size() < out.facts_.frames) {
            const auto some =
                read_answer(out.link_.ask(text_of({{"do", "times"}, {"from", out.times_s_.size()}}), job));
            if (!some) return pass_on(some.error());
            const std::size_t count = some->at("count"), had = out.times_s_.size();
            if (count == 0 || count > film_memory_bytes / sizeof(double)) break;
            out.times_s_.resize(had + count);
            std::memcpy(out.times_s_.data() + had, out.link_.memory().data(), count * sizeof(double));
        }
    } catch (const PlainJson::exception&) {
        return fail(ErrorCode::bad_input, "The film is damaged: what was read of it makes no sense.", files.front());
    }
    const bool rises = std::is_sorted(out.times_s_.begin(), out.times_s_.end());
    if (out.times_s_.empty() || out.times_s_.size() != out.facts_.frames || !rises || out.facts_.width < 1 ||
        out.facts_.height < 1)
        return fail(ErrorCode::bad_input, "The film is damaged: what was read of it makes no sense.", files.front());
    return out;
}

std::optional<std::size_t> frame_at_moment(std::span<const double> times_s, double duration_s, double film_s) {
    constexpr double rounding_s = 1e-6;
    if (!(film_s >= -rounding_s) || film_s >= duration_s || times_s.empty()) return std::nullopt;
    const auto behind = std::upper_bound(times_s.begin(), times_s.end(), film_s + rounding_s);
    return behind == times_s.begin() ? 0 : static_cast<std::size_t>(behind - times_s.begin() - 1);
}

std::optional<std::size_t> FilmReader::frame_at(double film_s) const {
    return frame_at_moment(times_s_, facts_.duration_s, film_s);
}

Result<std::string> FilmReader::ask(const std::string& question, const JobContext& job, double most_s) {
    if (!link_.alive()) {
        if (const auto again = read_answer(link_.ask(text_of({{"do", "open"}, {"files", files_}}), job, 900)); !again)
            return pass_on(again.error());
    }
    return link_.ask(question, job, most_s);
}

Result<std::span<const std::uint8_t>> FilmReader::picture(std::size_t frame, int width, int height,
                                                          const JobContext& job) {
    const std::size_t size = static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 4;
    if (width < 1 || height < 1 || size > film_memory_bytes)
        return fail(ErrorCode::bad_input, "There is no room for a picture of this size.");
    const auto done =
        read_answer(ask(text_of({{"do", "picture"}, {"frame", frame}, {"width", width}, {"height", height}}), job));
    if (!done) return pass_on(done.error());
    return std::span<const std::uint8_t>(link_.memory().data(), size);
}

Result<std::span<const std::uint8_t>> FilmReader::grey(std::size_t from, std::size_t step, std::size_t count, int width,
                                                       int height, const JobContext& job) {
    const auto done = read_answer(ask(
        text_of(
            {{"do", "grey"}, {"from", from}, {"step", step}, {"count", count}, {"width", width}, {"height", height}}),
        job, 120));
    if (!done) return pass_on(done.error());
    const std::size_t made = done->value("count", std::size_t{0});
    const std::size_t size = made * static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    if (made > count || size > film_memory_bytes)
        return fail(ErrorCode::bad_input, "The film is damaged: what was read of it makes no sense.");
    return std::span<const std::uint8_t>(link_.memory().data(), size);
}

Result<std::vector<float>> FilmReader::sound(double from_s, double seconds, int rate_hz, const JobContext& job) {
    const auto done =
        read_answer(ask(text_of({{"do", "sound"}, {"from", from_s}, {"seconds", seconds}, {"hz", rate_hz}}), job, 120));
    if (!done) return pass_on(done.error());
    const std::size_t count = done->value("count", std::size_t{0});
    if (count * sizeof(float) > film_memory_bytes)
        return fail(ErrorCode::bad_input, "The film is damaged: what was read of it makes no sense.");
    std::vector<float> out(count);
    std::memcpy(out.data(), link_.memory().data(), count * sizeof(float));
    // What is not a number is silence.
    for (float& it : out)
        if (!std::isfinite(it)) it = 0;
    return out;
}

Result<void> FilmReader::copy_small(const std::string& file, int width, int height, const JobContext& job) {
    FilmWish wish;
    wish.file = file;
    wish.width = width;
    wish.height = height;
    wish.frames_per_s = std::max(1.0, facts_.frames_per_s);
    wish.codec = "mjpeg";
    wish.quality = 26;
    wish.gop = 1;
    const auto begun = read_answer(ask(text_of({{"do", "write"}, {"wish", to_json(wish)}}), job));
    if (!begun) return pass_on(begun.error());
    std::error_code code;
    const auto failed = [&](const Error& error) {
        link_.stop();
        std::filesystem::remove(unfinished_film_name(file), code);
        return pass_on(error);
    };
    constexpr std::size_t at_once = 32;
    for (std::size_t next = 0; next < facts_.frames;) {
        const auto some = read_answer(link_.ask(
            text_of({{"do", "copy_small"}, {"from", next}, {"count", at_once}, {"width", width}, {"height", height}}),
            job, 120));
        if (!some) return failed(some.error());
        const std::size_t reached = some->value("next", std::size_t{0});
        if (reached <= next) return failed(Error{ErrorCode::bad_input, "The film is damaged.", files_.front(), {}});
        next = reached;
        job.report(static_cast<double>(next) / static_cast<double>(facts_.frames));
    }
    const auto done = read_answer(link_.ask(text_of({{"do", "finish"}}), job));
    if (!done) return failed(done.error());
    return {};
}

Result<FilmWriter> FilmWriter::begin(const FilmWish& wish) {
    FilmWriter out;
    out.file_ = wish.file;
    const auto begun = read_answer(out.link_.ask(text_of({{"do", "write"}, {"wish", to_json(wish)}})));
    if (!begun) return pass_on(begun.error());
    out.coded_as_ = begun->value("coded_as", std::string());
    return out;
}

Result<void> FilmWriter::put(std::int64_t at, std::size_t count) {
    const auto done = read_answer(link_.ask(text_of({{"do", "put"}, {"at", at}, {"count", count}})));
    if (!done) return pass_on(done.error());
    return {};
}

Result<void> FilmWriter::put_sound(std::span<const float> mono) {
    constexpr std::size_t most = film_memory_bytes / sizeof(float);
    for (std::size_t from = 0; from < mono.size(); from += most) {
        const auto some = mono.subspan(from, std::min(most, mono.size() - from));
        std::memcpy(link_.memory().data(), some.data(), some.size_bytes());
        const auto done = read_answer(link_.ask(text_of({{"do", "put_sound"}, {"count", some.size()}})));
        if (!done) return pass_on(done.error());
    }
    return {};
}

Result<void> FilmWriter::finish() {
    const auto done = read_answer(link_.ask(text_of({{"do", "finish"}}), {}, 600));
    if (!done) return pass_on(done.error());
    finished_ = true;
    return {};
}

FilmWriter::~FilmWriter() {
    if (finished_ || file_.empty()) return;
    link_.stop();
    std::error_code code;
    std::filesystem::remove(unfinished_film_name(file_), code);
}

}  // namespace rendak
