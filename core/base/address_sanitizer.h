#pragma once

// RENDAK_ADDRESS_SANITIZER: compiled with it. Each compiler says so in its own way.
#if defined(__SANITIZE_ADDRESS__)
#define RENDAK_ADDRESS_SANITIZER
#elif defined(__has_feature)
#if __has_feature(address_sanitizer)
#define RENDAK_ADDRESS_SANITIZER
#endif
#endif
