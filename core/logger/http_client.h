#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak {

/// One request to a peer that is not trusted: plain HTTP, no redirects, no proxies, and limits on everything.
struct HttpRequest {
    std::string method = "GET";
    std::string url;
    std::vector<std::string> headers;  ///< "Range: bytes=5-"
    std::string body;
    std::uint64_t most_bytes = 1U << 20;  ///< of the answer's body; more is an error
    /// The whole answer must be there by then; 0: only the drip below counts.
    double most_seconds = 30;
    /// Fewer bytes a second than this for `drip_seconds` on end is a lost link.
    int least_bytes_per_second = 1000;
    int drip_seconds = 15;
    /// Gets the body as it comes, once the status is known; false ends the request (code cancelled). Empty: the body is
    /// kept in the answer.
    std::function<bool(int status, std::string_view)> sink;
};

struct HttpAnswer {
    int status = 0;
    std::string body;
};

/// Blocks until the answer is there, a limit is met (code bad_input), the link is lost (code io) or the job is stopped
/// (code cancelled, within a tenth of a second).
[[nodiscard]] Result<HttpAnswer> ask(const HttpRequest& request, const JobContext& job);

}  // namespace rendak
