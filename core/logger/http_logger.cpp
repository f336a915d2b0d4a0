#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/base/json_bounds.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/logger/http_client.h"
#include "core/logger/logger_link.h"

namespace rendak {
namespace {

using Json = nlohmann::json;

/// Numbers and texts of a peer that is not trusted.
double number(const Json& object, const char* key) {
    const auto found = object.is_object() ? object.find(key) : object.end();
    return found != object.end() && found->is_number() ? found->get<double>() : std::nan("");
}
std::string text(const Json& object, const char* key) {
    const auto found = object.is_object() ? object.find(key) : object.end();
    return found != object.end() && found->is_string() ? printable(found->get<std::string>()) : std::string();
}
bool flag(const Json& object, const char* key, bool otherwise) {
    const auto found = object.is_object() ? object.find(key) : object.end();
    return found != object.end() && found->is_boolean() ? found->get<bool>() : otherwise;
}
std::optional<double> if_finite(double value) {
    return std::isfinite(value) ? std::optional(value) : std::nullopt;
}
/// A count of the peer: 0 for anything that is none.
template <class T>
T count_of(double value) {
    return value >= 0 && value < 1e15
               ? static_cast<T>(std::min(value, static_cast<double>(std::numeric_limits<T>::max()) / 2))
               : T{0};
}

/// A logger that lists more has been filled by somebody else.
constexpr std::size_t most_recordings = 100'000;
constexpr std::uint64_t most_list_bytes = 64U << 20;

class HttpLogger : public LoggerLink {
  public:
    explicit HttpLogger(std::string url) : url_(std::move(url)) {
        while (!url_.empty() && url_.back() == '/') url_.pop_back();
    }

    [[nodiscard]] std::string address() const override { return url_; }

    Result<LoggerState> state(const JobContext& job) override {
        const auto json = get("/v1/state", 1U << 20, job);
        if (!json) return pass_on(json.error());
        LoggerState out;
        out.device = text(*json, "device");
        out.clock_unix_s = if_finite(number(*json, "clock_unix_s"));
        out.free_bytes = count_of<std::uint64_t>(number(*json, "free_bytes"));
        out.capacity_bytes = count_of<std::uint64_t>(number(*json, "capacity_bytes"));
        out.recordings = count_of<int>(number(*json, "recordings"));
        out.recordings_limit = count_of<int>(number(*json, "recordings_limit"));
        out.recording = flag(*json, "recording", false);
        return out;
    }

    Result<std::vector<LoggedFile>> list(const JobContext& job) override {
        const auto json = get("/v1/recordings", most_list_bytes, job);
        if (!json) return pass_on(json.error());
        if (!json->is_array())
            return fail(ErrorCode::bad_input, "The logger's list of recordings is not readable.", url_);
        if (json->size() > most_recordings)
            return fail(ErrorCode::bad_input, "The logger lists more than 100 000 recordings; the list was refused.",
                        url_);
        std::vector<LoggedFile> out;
        for (const Json& entry : *json) {
            LoggedFile file;
            file.number = count_of<int>(number(entry, "number"));
            file.name = text(entry, "name");
            file.start_unix_s = if_finite(number(entry, "start_unix_s"));
            file.duration_s = if_finite(number(entry, "duration_s"));
            file.size = count_of<std::uint64_t>(number(entry, "size"));
            file.sha256 = text(entry, "sha256");
            file.xxh3 = text(entry, "xxh3");
            if (number(entry, "laps") >= 0) file.laps = count_of<int>(number(entry, "laps"));
            file.complete = flag(entry, "complete", true);
            const auto unreadable = [&](const char* digest) {
                return fail(ErrorCode::bad_input,
                            "The logger lists recording " + std::to_string(file.number) + " without a readable " +
                                digest + " digest.",
                            url_);
            };
            if (!is_hex(file.sha256, 64)) return unreadable("SHA-256");
            if (entry.contains("xxh3") && !is_hex(file.xxh3, 32)) return unreadable("XXH3");
            out.push_back(std::move(file));
        }
        return out;
    }

    Result<void> read(const LoggedFile& file, std::uint64_t from, const std::function<bool(std::string_view)>& sink,
                      const JobContext& job) override {
        if (from >= file.size) return {};
        const int expected = from > 0 ? 206 : 200;
        bool wanted = true, right = true;
        std::uint64_t got = 0;
        HttpRequest request;
        request.url = place_of(file) + "/data";
        if (from > 0) request.headers.push_back("Range: bytes=" + std::to_string(from) + "-");
        request.most_bytes = file.size - from;
        request.most_seconds = 0;
        request.sink = [&](int status, std::string_view bytes) {
            // A peer that ignores the range would begin again from the start.
            right = status == expected;
            if (!right) return false;
            got += bytes.size();
            wanted = sink(bytes);
            return wanted;
        };
        const auto result = ask(request, job);
        if (!wanted || job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", url_);
        if (!right || (result && result->status != expected))
            return fail(ErrorCode::io, "The logger does not hand out recording " + std::to_string(file.number) + ".",
                        url_);
        if (!result && result.error().code == ErrorCode::bad_input)
            return fail(
                ErrorCode::bad_input,
                "The logger sends more bytes than it announced for recording " + std::to_string(file.number) + ".",
                url_);
        if (!result) return pass_on(result.error());
        if (from + got < file.size) return pass_on(lost());
        return {};
    }

    Result<void> erase(const LoggedFile& file, const JobContext& job) override {
        HttpRequest request;
        request.method = "DELETE";
        request.url = place_of(file);
        request.headers.push_back("If-Match: \"" + file.sha256 + "\"");
        const auto result = ask(request, job);
        if (!result) return pass_on(result.error());
        if (result->status == 412)
            return fail(ErrorCode::bad_input,
                        "Recording " + std::to_string(file.number) +
                            " is another one now; nothing was erased. Read the list again.",
                        url_);
        if (result->status == 404)
            return fail(ErrorCode::not_found,
                        "Recording " + std::to_string(file.number) + " is not on the logger any more.", url_);
        if (result->status != 200 && result->status != 204)
            return fail(ErrorCode::io,
                        "The logger refused to erase recording " + std::to_string(file.number) + " (" +
                            std::to_string(result->status) + ").",
                        url_);
        return {};
    }

    Result<double> set_clock(double unix_s, const JobContext& job) override {
        HttpRequest request;
        request.method = "PUT";
        request.url = url_ + "/v1/clock";
        request.headers.emplace_back("Content-Type: application/json");
        request.body = Json{{"unix_s", unix_s}}.dump();
        const auto result = ask(request, job);
        if (!result) return pass_on(result.error());
        const auto json = parsed(result->body);
        const double now = json ? number(*json, "clock_unix_s") : std::nan("");
        if (result->status != 200 || !std::isfinite(now))
            return fail(ErrorCode::io, "The logger did not take the time (" + std::to_string(result->status) + ").",
                        url_);
        return now;
    }

  private:
    [[nodiscard]] std::string place_of(const LoggedFile& file) const {
        return url_ + "/v1/recordings/" + std::to_string(file.number);
    }
    Result<Json> parsed(const std::string& body) const {
        if (check_json(body, url_, {most_list_bytes, 4'000'000, 8})) {
            if (Json json = Json::parse(body, nullptr, false); !json.is_discarded()) return json;
        }
        return fail(ErrorCode::bad_input,
                    "What answers at this address is no logger that Rendak can read (docs/logger-interface.md).", url_);
    }
    Result<Json> get(const char* path, std::uint64_t most_bytes, const JobContext& job) const {
        HttpRequest request;
        request.url = url_ + path;
        request.most_bytes = most_bytes;
        const auto result = ask(request, job);
        if (!result) return pass_on(result.error());
        return parsed(result->status == 200 ? result->body : std::string());
    }
    [[nodiscard]] Error lost() const {
        return {ErrorCode::io,
                "The logger does not answer. Check that it is switched on and connected, and its address.", url_};
    }

    std::string url_;
};

}  // namespace

std::unique_ptr<LoggerLink> http_logger(const std::string& url) {
    return std::make_unique<HttpLogger>(url);
}

Result<std::unique_ptr<LoggerLink>> open_logger(const std::string& address) {
    if (address.rfind("http://", 0) == 0) return http_logger(address);
    if (address.rfind("https://", 0) == 0)
        return fail(ErrorCode::unsupported, "Loggers are reached over http://, not https://.", address);
    std::error_code code;
    if (std::filesystem::is_directory(address, code)) return card_folder(address);
    return fail(ErrorCode::not_found,
                "This is neither a folder nor an address that begins with http://. Is the card in the reader?",
                address);
}

}  // namespace rendak
