#pragma once

#include <atomic>
#include <functional>
#include <string>
#include <string_view>
#include <thread>

namespace rendak::test {

/// A server on loopback that answers every connection with whatever bytes it is told to, for as long as it is told to:
/// loggers that misbehave. One connection at a time.
class RawServer {
  public:
    /// `answer(request, send)`: `send` returns false once the peer has gone or the server stops.
    using Send = std::function<bool(std::string_view)>;
    using Answer = std::function<void(const std::string& request, const Send& send)>;
    explicit RawServer(Answer answer);
    ~RawServer();
    RawServer(const RawServer&) = delete;
    RawServer& operator=(const RawServer&) = delete;
    [[nodiscard]] std::string url() const { return "http://127.0.0.1:" + std::to_string(port_); }
    [[nodiscard]] const std::atomic<bool>& stopping() const { return stopping_; }

  private:
    void serve();
    Answer answer_;
    int listener_ = -1, port_ = 0;
    std::atomic<bool> stopping_{false};
    std::thread thread_;
};

}  // namespace rendak::test
