#include "film/serve.h"

#include <signal.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstring>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "core/base/address_sanitizer.h"
#include "core/video/film_json.h"
#include "core/video/film_link.h"
#include "film/film.h"
#include "film/writer.h"

namespace rendak::film {
namespace {

using Json = nlohmann::json;

class Server {
  public:
    explicit Server(std::span<std::uint8_t> memory) : memory_(memory) {}

    Result<Json> answer(const Json& asked) {
        const std::string what = asked.at("do");
        if (what == "open") return open(asked);
        if (what == "times") return times(asked);
        if (what == "picture") return picture(asked);
        if (what == "grey") return grey(asked);
        if (what == "sound") return sound(asked);
        if (what == "write") return write(asked);
        if (what == "put") return put(asked);
        if (what == "put_sound") return put_sound(asked);
        if (what == "finish") return finish();
        if (what == "copy_small") return copy_small(asked);
        return fail(ErrorCode::unsupported, "There is no such question.");
    }

  private:
    Result<Json> open(const Json& asked) {
        film_.reset();
        auto opened = Film::open(asked.at("files").get<std::vector<std::string>>());
        if (!opened) return pass_on(opened.error());
        film_.emplace(std::move(*opened));
        return to_json(film_->facts());
    }

    /// Moments of frames from a number on, as many as there is room for.
    Result<Json> times(const Json& asked) {
        if (!film_) return fail(ErrorCode::not_found, "No film is open.");
        const auto& index = film_->index();
        const std::size_t from = asked.at("from");
        std::size_t count = 0;
        for (std::size_t i = from; i < index.size() && (count + 1) * sizeof(double) <= memory_.size(); ++i, ++count)
            std::memcpy(memory_.data() + count * sizeof(double), &index[i].time_s, sizeof(double));
        return Json{{"count", count}};
    }

    Result<Json> picture(const Json& asked) {
        if (!film_) return fail(ErrorCode::not_found, "No film is open.");
        const auto done = film_->picture(asked.at("frame"), asked.at("width"), asked.at("height"), memory_);
        if (!done) return pass_on(done.error());
        return Json::object();
    }

    /// Many small grey pictures one after the other; those that cannot be decoded repeat the one before.
    Result<Json> grey(const Json& asked) {
        if (!film_) return fail(ErrorCode::not_found, "No film is open.");
        const int width = asked.at("width"), height = asked.at("height");
        if (width < 1 || height < 1 || width > 4096 || height > 4096)
            return fail(ErrorCode::bad_input, "There is no room for a picture of this size.");
        const std::size_t size = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
        const std::size_t from = asked.at("from"), step = std::max<std::size_t>(1, asked.at("step"));
        const std::size_t count = std::min(asked.at("count").get<std::size_t>(), memory_.size() / size);
        std::size_t made = 0;
        Json missing = Json::array();
        for (std::size_t number = from; made < count && number < film_->index().size(); number += step, ++made) {
            const auto out = memory_.subspan(made * size, size);
            if (film_->grey(number, width, height, out)) continue;
            missing.push_back(made);
            if (made > 0)
                std::memcpy(out.data(), memory_.data() + (made - 1) * size, size);
            else
                std::fill(out.begin(), out.end(), std::uint8_t{0});
        }
        return Json{{"count", made}, {"missing", missing}};
    }

    Result<Json> sound(const Json& asked) {
        if (!film_) return fail(ErrorCode::not_found, "No film is open.");
        const int rate = asked.at("hz");
        double seconds = asked.at("seconds");
        if (rate < 100 || rate > 512'000) return fail(ErrorCode::bad_input, "There is no such rate of sound.");
        const std::size_t most = memory_.size() / sizeof(float);
        seconds = std::min(seconds, static_cast<double>(most) / rate);
        const auto samples = film_->sound(asked.at("from"), seconds, rate);
        if (!samples) return pass_on(samples.error());
        std::memcpy(memory_.data(), samples->data(), samples->size() * sizeof(float));
        return Json{{"count", samples->size()}};
    }

    Result<Json> write(const Json& asked) {
        writer_.reset();
        auto begun = Writer::begin(film_wish_of(asked.at("wish")));
        if (!begun) return pass_on(begun.error());
        writer_.emplace(std::move(*begun));
        return Json{{"coded_as", writer_->coded_as()}};
    }

    Result<Json> put(const Json& asked) {
        if (!writer_) return fail(ErrorCode::not_found, "No film is being written.");
        const std::int64_t at = asked.at("at"), count = asked.at("count");
        const std::size_t size = writer_->picture_bytes();
        if (count < 1 || static_cast<std::size_t>(count) > memory_.size() / size)
            return fail(ErrorCode::bad_input, "There is no room for so many frames.");
        for (std::int64_t k = 0; k < count; ++k) {
            const auto picture = memory_.subspan(static_cast<std::size_t>(k) * size, size);
            if (const auto done = writer_->picture(picture, at + k); !done) return pass_on(done.error());
        }
        return Json::object();
    }

    Result<Json> put_sound(const Json& asked) {
        if (!writer_) return fail(ErrorCode::not_found, "No film is being written.");
        const std::size_t count = std::min(asked.at("count").get<std::size_t>(), memory_.size() / sizeof(float));
        std::vector<float> samples(count);
        std::memcpy(samples.data(), memory_.data(), count * sizeof(float));
        if (const auto done = writer_->sound(samples); !done) return pass_on(done.error());
        return Json::object();
    }

    Result<Json> finish() {
        if (!writer_) return fail(ErrorCode::not_found, "No film is being written.");
        const auto done = writer_->finish();
        writer_.reset();
        if (!done) return pass_on(done.error());
        return Json::object();
    }

    /// Some frames more of a small copy in which every frame is a key frame.
    Result<Json> copy_small(const Json& asked) {
        if (!film_ || !writer_) return fail(ErrorCode::not_found, "No film is open, or none is being written.");
        const int width = asked.at("width"), height = asked.at("height");
        const std::size_t from = asked.at("from"), count = asked.at("count");
        std::size_t number = from;
        for (; number < std::min(from + count, film_->index().size()); ++number) {
            // A frame that is damaged is grey there, so that the numbers stay the same.
            if (!film_->picture(number, width, height, memory_))
                std::fill(memory_.begin(), memory_.begin() + std::ptrdiff_t{4} * width * height, std::uint8_t{96});
            if (const auto done = writer_->picture(memory_, static_cast<std::int64_t>(number)); !done)
                return pass_on(done.error());
        }
        return Json{{"next", number}};
    }

    std::span<std::uint8_t> memory_;
    std::optional<Film> film_;
    std::optional<Writer> writer_;
};

void say_line(const Json& json) {
    std::string text = json.dump(-1, ' ', false, Json::error_handler_t::replace) + '\n';
    std::size_t written = 0;
    while (written < text.size()) {
        const auto count = ::write(1, text.data() + written, text.size() - written);
        if (count <= 0) std::_Exit(0);
        written += static_cast<std::size_t>(count);
    }
}

}  // namespace

int serve() {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    const rlimit none{0, 0};
    ::setrlimit(RLIMIT_CORE, &none);
#if !defined(RENDAK_ADDRESS_SANITIZER)
    const rlimit memory{film_memory_limit, film_memory_limit};
    ::setrlimit(RLIMIT_AS, &memory);
#endif
    av_log_set_level(AV_LOG_QUIET);
    void* mapped = ::mmap(nullptr, film_memory_bytes, PROT_READ | PROT_WRITE, MAP_SHARED, 3, 0);
    if (mapped == MAP_FAILED) return 1;
    Server server({static_cast<std::uint8_t*>(mapped), film_memory_bytes});
    std::string waiting;
    char block[1 << 16];
    for (;;) {
        const auto count = ::read(0, block, sizeof block);
        if (count <= 0) return 0;
        waiting.append(block, static_cast<std::size_t>(count));
        for (std::size_t end = 0; (end = waiting.find('\n')) != std::string::npos;) {
            const std::string line = waiting.substr(0, end);
            waiting.erase(0, end + 1);
            Json out;
            try {
                const auto answer = server.answer(Json::parse(line));
                if (answer)
                    out = Json{{"ok", *answer}};
                else
                    out = Json{{"error", answer.error().message},
                               {"where", answer.error().where},
                               {"code", static_cast<int>(answer.error().code)}};
            } catch (const Json::exception& problem) {
                out = Json{{"error", std::string("The question cannot be understood: ") + problem.what()},
                           {"where", ""},
                           {"code", static_cast<int>(ErrorCode::bad_input)}};
            } catch (const std::bad_alloc&) {
                out = Json{{"error", "The film needs more memory than a film may have."},
                           {"where", ""},
                           {"code", static_cast<int>(ErrorCode::bad_input)}};
            }
            say_line(out);
        }
    }
}

}  // namespace rendak::film
