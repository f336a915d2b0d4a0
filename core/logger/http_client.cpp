#include "core/logger/http_client.h"

#include <curl/curl.h>

#include <memory>
#include <mutex>

namespace rendak {
namespace {

/// Real loggers send a few hundred bytes of headers.
constexpr std::size_t most_header_bytes = 64U << 10;

struct Exchange {
    const HttpRequest& request;
    HttpAnswer answer;
    CURL* easy = nullptr;
    std::size_t header_bytes = 0;
    std::uint64_t body_bytes = 0;
    bool too_large = false, unwanted = false;
};

std::size_t take_header(char*, std::size_t size, std::size_t count, void* user) {
    auto& exchange = *static_cast<Exchange*>(user);
    exchange.header_bytes += size * count;
    exchange.too_large = exchange.too_large || exchange.header_bytes > most_header_bytes;
    return exchange.too_large ? 0 : size * count;
}

std::size_t take_body(char* data, std::size_t size, std::size_t count, void* user) {
    auto& exchange = *static_cast<Exchange*>(user);
    const std::string_view bytes(data, size * count);
    exchange.body_bytes += bytes.size();
    if (exchange.body_bytes > exchange.request.most_bytes) {
        exchange.too_large = true;
        return 0;
    }
    if (!exchange.request.sink) {
        exchange.answer.body += bytes;
        return bytes.size();
    }
    long status = 0;
    curl_easy_getinfo(exchange.easy, CURLINFO_RESPONSE_CODE, &status);
    if (exchange.request.sink(static_cast<int>(status), bytes)) return bytes.size();
    exchange.unwanted = true;
    return 0;
}

}  // namespace

Result<HttpAnswer> ask(const HttpRequest& request, const JobContext& job) {
    static std::once_flag once;
    std::call_once(once, [] { curl_global_init(CURL_GLOBAL_DEFAULT); });
    const std::unique_ptr<CURL, decltype(&curl_easy_cleanup)> easy(curl_easy_init(), curl_easy_cleanup);
    const std::unique_ptr<CURLM, decltype(&curl_multi_cleanup)> multi(curl_multi_init(), curl_multi_cleanup);
    if (!easy || !multi) return fail(ErrorCode::io, "The network cannot be used.", request.url);
    Exchange exchange{request, {}, easy.get()};
    curl_slist* list = nullptr;
    for (const std::string& header : request.headers) list = curl_slist_append(list, header.c_str());
    const std::unique_ptr<curl_slist, decltype(&curl_slist_free_all)> headers(list, curl_slist_free_all);
    const auto set = [&](CURLoption option, auto value) { curl_easy_setopt(easy.get(), option, value); };
    set(CURLOPT_URL, request.url.c_str());
    set(CURLOPT_PROTOCOLS_STR, "http");
    set(CURLOPT_NOPROXY, "*");
    set(CURLOPT_NOSIGNAL, 1L);
    set(CURLOPT_FRESH_CONNECT, 1L);
    set(CURLOPT_FORBID_REUSE, 1L);
    set(CURLOPT_HTTPHEADER, headers.get());
    set(CURLOPT_CUSTOMREQUEST, request.method.c_str());
    if (!request.body.empty()) {
        set(CURLOPT_POSTFIELDSIZE, static_cast<long>(request.body.size()));
        set(CURLOPT_POSTFIELDS, request.body.c_str());
    }
    set(CURLOPT_CONNECTTIMEOUT_MS, 3000L);
    if (request.most_seconds > 0) set(CURLOPT_TIMEOUT_MS, static_cast<long>(request.most_seconds * 1000));
    set(CURLOPT_LOW_SPEED_LIMIT, static_cast<long>(request.least_bytes_per_second));
    set(CURLOPT_LOW_SPEED_TIME, static_cast<long>(request.drip_seconds));
    set(CURLOPT_HEADERFUNCTION, take_header);
    set(CURLOPT_HEADERDATA, &exchange);
    set(CURLOPT_WRITEFUNCTION, take_body);
    set(CURLOPT_WRITEDATA, &exchange);

    curl_multi_add_handle(multi.get(), easy.get());
    int running = 1;
    CURLMcode state = CURLM_OK;
    while (running > 0 && state == CURLM_OK && !job.stopped()) {
        state = curl_multi_perform(multi.get(), &running);
        if (running > 0 && state == CURLM_OK) state = curl_multi_poll(multi.get(), nullptr, 0, 100, nullptr);
    }
    CURLcode result = CURLE_AGAIN;
    int left = 0;
    while (const CURLMsg* message = curl_multi_info_read(multi.get(), &left)) {
        if (message->msg == CURLMSG_DONE) result = message->data.result;
    }
    long status = 0;
    curl_easy_getinfo(easy.get(), CURLINFO_RESPONSE_CODE, &status);
    exchange.answer.status = static_cast<int>(status);
    curl_multi_remove_handle(multi.get(), easy.get());

    if (job.stopped() || exchange.unwanted) return fail(ErrorCode::cancelled, "Cancelled.", request.url);
    // The client's own limit on a single header line ends the request too.
    if (exchange.too_large || result == CURLE_OUT_OF_MEMORY)
        return fail(ErrorCode::bad_input,
                    "What answers at this address sends more than a logger would; it was cut off. Check the address.",
                    request.url);
    if (result != CURLE_OK)
        return fail(ErrorCode::io,
                    "The logger does not answer, or too slowly. Check that it is switched on and connected, and its "
                    "address.",
                    request.url);
    return std::move(exchange.answer);
}

}  // namespace rendak
