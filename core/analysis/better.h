#pragma once

namespace rendak {

/// Which way a figure is better, where there is one.
enum class Better { more, less, neither };

}  // namespace rendak
