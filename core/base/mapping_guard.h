#pragma once

#include <cstddef>

namespace rendak {

/// A file that shrinks while it is mapped ends the process with SIGBUS at the next look at what is gone. Guarded
/// mappings get a page of bytes 255 there instead. The table is filled from any thread and read by the signal handler,
/// so it is a fixed one of atomics.
[[nodiscard]] int guard_mapping(const void* begin, std::size_t size);  ///< -1: the table is full
void release_mapping(int guard);
[[nodiscard]] bool mapping_shrank(int guard);
/// The bytes were read and are not needed soon: a guarded mapping's pages leave this process's memory, and come back
/// from the file when somebody asks again. Any other memory is left alone.
void let_go(const void* data, std::size_t bytes);
/// How often that happened in this process.
[[nodiscard]] unsigned long shrunk_mappings();

}  // namespace rendak
