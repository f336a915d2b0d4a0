#pragma once

/// What a recording file says of itself (docs/formats.md).
namespace rendak::recording_format {

inline constexpr double version = 1;
inline constexpr const char* name = "rendak recording";
inline constexpr char signature[] = "\x89HDF\r\n\x1a\n";  ///< of HDF5

}  // namespace rendak::recording_format
