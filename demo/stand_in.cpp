#include "demo/stand_in.h"

#include <httplib.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <mutex>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/xxh3.h"
#include "core/logger/logger_link.h"

namespace rendak::demo {
namespace {

using Json = nlohmann::json;

double computer_now() {
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

}  // namespace

struct StandIn::Inside {
    /// One recording on the stand-in's card; of one that was cut off only the first bytes.
    struct Kept {
        LoggedFile file;
        std::shared_ptr<const MappedFile> mapping;
        [[nodiscard]] std::string_view bytes() const { return mapping->text().substr(0, file.size); }
    };

    Troubles troubles;
    httplib::Server server;
    std::thread thread;
    int port = 0;
    std::mutex mutex;
    std::vector<Kept> kept;
    double clock_offset_s = 0;
    std::atomic<int> drops{0}, corruptions{0};
    std::atomic<std::uint64_t> sent{0};

    void routes() {
        server.Get("/v1/state", [this](const httplib::Request&, httplib::Response& out) { answer_state(out); });
        server.Get("/v1/recordings", [this](const httplib::Request&, httplib::Response& out) { answer_list(out); });
        server.Get(R"(/v1/recordings/(\d+)/data)",
                   [this](const httplib::Request& in, httplib::Response& out) { answer_data(in, out); });
        server.Delete(R"(/v1/recordings/(\d+))",
                      [this](const httplib::Request& in, httplib::Response& out) { answer_erase(in, out); });
        server.Put("/v1/clock", [this](const httplib::Request& in, httplib::Response& out) { answer_clock(in, out); });
    }

    static void send(httplib::Response& out, const Json& json) { out.set_content(json.dump(), "application/json"); }

    void answer_state(httplib::Response& out) {
        const std::lock_guard lock(mutex);
        std::uint64_t used = 0;
        for (const Kept& one : kept) used += one.file.size;
        const std::uint64_t capacity = troubles.nearly_full ? used * 100 / 97 : std::uint64_t{8} << 30;
        const int count = static_cast<int>(kept.size());
        send(out, {{"device", "Rendak stand-in logger"},
                   {"clock_unix_s", computer_now() + clock_offset_s},
                   {"free_bytes", capacity - used},
                   {"capacity_bytes", capacity},
                   {"recordings", count},
                   {"recordings_limit", troubles.nearly_full ? count : 64},
                   {"recording", false}});
    }

    void answer_list(httplib::Response& out) {
        const std::lock_guard lock(mutex);
        Json list = Json::array();
        if (troubles.restart_numbering) {
            for (std::size_t i = 0; i < kept.size(); ++i) kept[i].file.number = static_cast<int>(i) + 1;
        }
        for (const Kept& one : kept) {
            const LoggedFile& file = one.file;
            Json entry{{"number", file.number}, {"name", file.name}, {"size", file.size},
                       {"sha256", file.sha256}, {"xxh3", file.xxh3}, {"complete", file.complete}};
            if (file.start_unix_s) entry["start_unix_s"] = *file.start_unix_s;
            if (file.laps) entry["laps"] = *file.laps;
            if (file.duration_s) entry["duration_s"] = *file.duration_s;
            list.push_back(std::move(entry));
        }
        send(out, list);
    }

    std::optional<Kept> find(const httplib::Request& in) {
        const std::lock_guard lock(mutex);
        for (const Kept& one : kept) {
            if (std::to_string(one.file.number) == in.matches[1]) return one;
        }
        return std::nullopt;
    }

    void answer_data(const httplib::Request& in, httplib::Response& out) {
        const auto one = find(in);
        if (!one) {
            out.status = 404;
            return;
        }
        const bool corrupt = one->file.number == troubles.corrupt_number && corruptions++ < troubles.corruptions;
        out.set_header("ETag", "\"" + one->file.sha256 + "\"");
        out.set_content_provider(
            one->bytes().size(), "application/octet-stream",
            [this, mapping = one->mapping, corrupt, given = std::uint64_t{0}](std::size_t offset, std::size_t length,
                                                                              httplib::DataSink& sink) mutable {
                constexpr std::size_t block = 256 * 1024;
                std::size_t size = std::min(length, block);
                if (troubles.bytes_per_s > 0) {
                    size = std::min<std::size_t>(size, static_cast<std::size_t>(troubles.bytes_per_s / 20) + 1);
                    std::this_thread::sleep_for(
                        std::chrono::duration<double>(static_cast<double>(size) / troubles.bytes_per_s));
                }
                if (troubles.drop_after > 0 && given + size > troubles.drop_after && drops < troubles.drops) {
                    ++drops;
                    return false;
                }
                given += size;
                sent += size;
                std::string part(mapping->data() + offset, size);
                // Every megabyte's last byte, so that one is hit wherever the download begins.
                if (corrupt) part.back() = static_cast<char>(part.back() ^ 1);
                return sink.write(part.data(), part.size());
            });
    }

    void answer_erase(const httplib::Request& in, httplib::Response& out) {
        const auto one = find(in);
        if (!one) {
            out.status = 404;
            return;
        }
        if (in.get_header_value("If-Match") != "\"" + one->file.sha256 + "\"") {
            out.status = 412;
            return;
        }
        out.status = 204;
        if (troubles.keeps_erased) return;
        const std::lock_guard lock(mutex);
        std::erase_if(kept, [&](const Kept& other) { return other.file.sha256 == one->file.sha256; });
    }

    void answer_clock(const httplib::Request& in, httplib::Response& out) {
        const Json json = Json::parse(in.body, nullptr, false);
        if (!json.is_object() || !json.contains("unix_s") || !json["unix_s"].is_number()) {
            out.status = 400;
            return;
        }
        const std::lock_guard lock(mutex);
        clock_offset_s = json["unix_s"].get<double>() - computer_now();
        send(out, {{"clock_unix_s", computer_now() + clock_offset_s}});
    }
};

StandIn::StandIn(const Troubles& troubles) : inside_(std::make_unique<Inside>()) {
    inside_->troubles = troubles;
    inside_->clock_offset_s = troubles.clock_offset_s;
}

StandIn::~StandIn() {
    stop();
}

Result<int> StandIn::start(const std::filesystem::path& card, int port) {
    const auto link = card_folder(card.string());
    const auto files = link->list({});
    if (!files) return pass_on(files.error());
    for (const LoggedFile& file : *files) {
        auto bytes = MappedFile::open(card / file.name);
        if (!bytes) return pass_on(bytes.error());
        Inside::Kept one{file, std::move(*bytes)};
        if (file.number == inside_->troubles.cut_off_number) {
            one.file.size = one.file.size * 6 / 10;
            one.file.complete = false;
            Sha256 digest;
            digest.add(one.bytes());
            one.file.sha256 = digest.hex();
            Xxh3 quick;
            quick.add(one.bytes());
            one.file.xxh3 = quick.hex();
        }
        inside_->kept.push_back(std::move(one));
    }
    inside_->routes();
    inside_->port = port == 0 ? inside_->server.bind_to_any_port("127.0.0.1")
                              : (inside_->server.bind_to_port("127.0.0.1", port) ? port : -1);
    if (inside_->port <= 0)
        return fail(ErrorCode::io,
                    "The stand-in logger cannot listen on port " + std::to_string(port) + "; choose another one.");
    inside_->thread = std::thread([inside = inside_.get()] { inside->server.listen_after_bind(); });
    return inside_->port;
}

std::string StandIn::url() const {
    return "http://127.0.0.1:" + std::to_string(inside_->port);
}

void StandIn::stop() {
    inside_->server.stop();
    wait();
}

void StandIn::wait() {
    if (inside_->thread.joinable()) inside_->thread.join();
}

std::uint64_t StandIn::bytes_sent() const {
    return inside_->sent;
}

}  // namespace rendak::demo
