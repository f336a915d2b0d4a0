#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

// That library's own name for its state, so that its header stays out of ours.
struct XXH3_state_s;

namespace rendak {

/// XXH3, 128 bit (Collet 2019, xxHash 0.8), of what is added, as 32 hex digits, highest first: tells whether bytes have
/// changed by accident, far more quickly than SHA-256 does. Not against somebody who wants two files to look
/// alike.
class Xxh3 {
  public:
    Xxh3();
    void add(std::string_view bytes);
    void add(const void* bytes, std::size_t size) { add({static_cast<const char*>(bytes), size}); }
    [[nodiscard]] std::string hex() const;

  private:
    struct Free {
        void operator()(XXH3_state_s* state) const;
    };
    std::unique_ptr<XXH3_state_s, Free> state_;
};

}  // namespace rendak
