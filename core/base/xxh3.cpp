#include "core/base/xxh3.h"

#include <xxhash.h>

#include <array>
#include <cstdio>

namespace rendak {

void Xxh3::Free::operator()(XXH3_state_s* state) const {
    XXH3_freeState(state);
}

Xxh3::Xxh3() : state_(XXH3_createState()) {
    XXH3_128bits_reset(state_.get());
}

void Xxh3::add(std::string_view bytes) {
    XXH3_128bits_update(state_.get(), bytes.data(), bytes.size());
}

std::string Xxh3::hex() const {
    const XXH128_hash_t hash = XXH3_128bits_digest(state_.get());
    std::array<char, 33> text{};
    std::snprintf(text.data(), text.size(), "%016llx%016llx", static_cast<unsigned long long>(hash.high64),
                  static_cast<unsigned long long>(hash.low64));
    return text.data();
}

}  // namespace rendak
