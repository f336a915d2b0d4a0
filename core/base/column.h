#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace rendak {

/// Values in a row that were computed here, or that lie in a mapped file: a column of hours costs no memory when only
/// minutes of it are looked at. Reads like a vector; copies of a mapped one share the file.
template <class T>
class Column {
  public:
    Column() = default;
    /// Values that `owner` keeps alive.
    Column(std::span<const T> values, std::shared_ptr<const void> owner) : mapped_(values), owner_(std::move(owner)) {}

    [[nodiscard]] const T* data() const { return owner_ != nullptr ? mapped_.data() : own_.data(); }
    [[nodiscard]] std::size_t size() const { return owner_ != nullptr ? mapped_.size() : own_.size(); }
    [[nodiscard]] bool empty() const { return size() == 0; }
    [[nodiscard]] const T& operator[](std::size_t i) const { return data()[i]; }
    [[nodiscard]] const T& front() const { return *data(); }
    [[nodiscard]] const T& back() const { return data()[size() - 1]; }
    [[nodiscard]] const T* begin() const { return data(); }
    [[nodiscard]] const T* end() const { return data() + size(); }

    void push_back(const T& value) { edit().push_back(value); }
    void reserve(std::size_t count) { edit().reserve(count); }
    /// The values as a vector to be changed; mapped ones are copied first.
    [[nodiscard]] std::vector<T>& edit() {
        if (owner_ != nullptr) {
            own_.assign(mapped_.begin(), mapped_.end());
            owner_.reset();
            mapped_ = {};
        }
        return own_;
    }

  private:
    std::vector<T> own_;
    std::span<const T> mapped_;
    std::shared_ptr<const void> owner_;
};

}  // namespace rendak
