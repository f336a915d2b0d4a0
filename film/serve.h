#pragma once

namespace rendak::film {

/// The main loop of `rendak-film`: questions as lines of JSON from 0, answers to 1, pictures and sound in the memory
/// that is open as 3 (core/video/film_link.h says what can be asked). Ends when 0 does.
[[nodiscard]] int serve();

}  // namespace rendak::film
