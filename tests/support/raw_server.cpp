#include "tests/support/raw_server.h"

#include <arpa/inet.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace rendak::test {

RawServer::RawServer(Answer answer) : answer_(std::move(answer)) {
    listener_ = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    sockaddr_in address{};
    address.sin_family = AF_INET;
    address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t size = sizeof address;
    ::bind(listener_, reinterpret_cast<sockaddr*>(&address), size);
    ::listen(listener_, 8);
    ::getsockname(listener_, reinterpret_cast<sockaddr*>(&address), &size);
    port_ = ntohs(address.sin_port);
    thread_ = std::thread([this] { serve(); });
}

RawServer::~RawServer() {
    stopping_ = true;
    thread_.join();
    ::close(listener_);
}

void RawServer::serve() {
    while (!stopping_) {
        pollfd waiting{listener_, POLLIN, 0};
        if (::poll(&waiting, 1, 20) <= 0) continue;
        const int peer = ::accept4(listener_, nullptr, nullptr, SOCK_CLOEXEC | SOCK_NONBLOCK);
        if (peer < 0) continue;
        std::string request;
        while (!stopping_ && request.find("\r\n\r\n") == std::string::npos) {
            pollfd reading{peer, POLLIN, 0};
            if (::poll(&reading, 1, 20) <= 0) continue;
            char buffer[4096];
            const ssize_t got = ::recv(peer, buffer, sizeof buffer, 0);
            if (got <= 0) break;
            request.append(buffer, static_cast<std::size_t>(got));
        }
        answer_(request, [this, peer](std::string_view bytes) {
            while (!bytes.empty() && !stopping_) {
                pollfd writing{peer, POLLOUT, 0};
                if (::poll(&writing, 1, 20) <= 0) continue;
                const ssize_t sent = ::send(peer, bytes.data(), bytes.size(), MSG_NOSIGNAL);
                if (sent <= 0) return false;
                bytes.remove_prefix(static_cast<std::size_t>(sent));
            }
            return !stopping_;
        });
        ::shutdown(peer, SHUT_RDWR);
        ::close(peer);
    }
}

}  // namespace rendak::test
