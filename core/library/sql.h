#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"

struct sqlite3;
struct sqlite3_stmt;

namespace rendak::sql {

/// The connection to a catalogue: what the library asks of it, and the only thing that knows which database answers.
class Connection {
  public:
    /// Takes the handle over; only open_library.cpp makes one.
    explicit Connection(sqlite3* handle) : handle_(handle) {}
    ~Connection();
    Connection(const Connection&) = delete;
    Connection& operator=(const Connection&) = delete;

    /// Several statements without answers.
    [[nodiscard]] Result<void> execute(const std::string& script) const;
    /// Of the row that was inserted last.
    [[nodiscard]] std::int64_t last_id() const;
    [[nodiscard]] bool in_transaction() const;
    /// What went wrong last, as a sentence.
    [[nodiscard]] Error error() const;
    [[nodiscard]] sqlite3* handle() const { return handle_; }

  private:
    sqlite3* handle_;
};

/// A prepared statement. bind() in the order of the question marks, then step() or run().
class Statement {
  public:
    Statement(const Connection& database, const char* text);
    ~Statement();
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    Statement& bind(std::int64_t value);
    Statement& bind(int value) { return bind(static_cast<std::int64_t>(value)); }
    Statement& bind(double value);
    Statement& bind(const std::string& text);
    Statement& bind_null();
    Statement& bind(const std::optional<double>& value) { return value ? bind(*value) : bind_null(); }

    /// True while there is a row. What ended it is for status() to say: no row and no answer are two things.
    [[nodiscard]] bool step();
    /// Whether there is a row at all.
    [[nodiscard]] Result<bool> found();
    /// All rows, each read by `read(row)`.
    template <class Read>
    [[nodiscard]] auto all(Read read) -> Result<std::vector<decltype(read(*this))>> {
        std::vector<decltype(read(*this))> out;
        while (step()) out.push_back(read(*this));
        if (auto fine = status(); !fine) return pass_on(fine.error());
        return out;
    }
    [[nodiscard]] Result<void> run();
    /// The error that ended step(), if one did.
    [[nodiscard]] Result<void> status() const;

    [[nodiscard]] std::int64_t integer(int column) const;
    [[nodiscard]] double real(int column) const;
    [[nodiscard]] std::optional<double> optional_real(int column) const {
        return is_null(column) ? std::nullopt : std::optional(real(column));
    }
    [[nodiscard]] bool is_null(int column) const;
    [[nodiscard]] std::string text(int column) const;

  private:
    sqlite3* database_;
    sqlite3_stmt* statement_ = nullptr;
    int next_ = 1;
    int code_ = 0;
};

/// Rolls back unless committed. One inside another is a part of it: it stands or falls with the outer one.
class Transaction {
  public:
    explicit Transaction(const Connection& database);
    ~Transaction();
    Transaction(const Transaction&) = delete;
    Transaction& operator=(const Transaction&) = delete;
    [[nodiscard]] Result<void> begun() const;
    [[nodiscard]] Result<void> commit();

  private:
    sqlite3* database_;
    bool inner_;
    int code_;
    bool open_;
};

/// An error of the database as a sentence; its own words are for programmers and are left out.
[[nodiscard]] Error database_error(sqlite3* database, int code);

}  // namespace rendak::sql
