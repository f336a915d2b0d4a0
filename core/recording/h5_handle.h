#pragma once

#include <hdf5.h>

#include <filesystem>
#include <mutex>
#include <string>
#include <utility>

#include "core/base/result.h"

namespace rendak::h5 {

/// What is packed in larger pieces is not unpacked.
inline constexpr hsize_t largest_chunk_bytes = 64U << 20;

/// Debian's HDF5 is not thread-safe: every use holds this lock. It also silences HDF5's own printing.
class Lock {
  public:
    Lock();

  private:
    std::unique_lock<std::mutex> lock_;
};

/// Owns an HDF5 identifier; `closer` is the function that matches its kind.
class Handle {
  public:
    Handle(hid_t id, herr_t (*closer)(hid_t)) : id_(id), close_(closer) {}
    Handle(Handle&& other) noexcept : id_(std::exchange(other.id_, -1)), close_(other.close_) {}
    Handle& operator=(Handle&&) = delete;
    ~Handle() {
        if (id_ >= 0) close_(id_);
    }
    [[nodiscard]] bool ok() const { return id_ >= 0; }
    operator hid_t() const { return id_; }  // NOLINT(google-explicit-constructor)
    /// Closes now and tells whether that went well.
    [[nodiscard]] bool close() { return close_(std::exchange(id_, -1)) >= 0; }

  private:
    hid_t id_;
    herr_t (*close_)(hid_t);
};

void write_text(hid_t object, const char* name, const std::string& text);
void write_number(hid_t object, const char* name, double value);
[[nodiscard]] std::string read_text(hid_t object, const char* name);
bool read_number(hid_t object, const char* name, double& value);

/// The system's error number named by HDF5's error stack, or 0.
[[nodiscard]] int last_error_number();

}  // namespace rendak::h5
