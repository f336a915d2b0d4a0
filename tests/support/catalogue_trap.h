#pragma once

#include <sqlite3.h>

#include <filesystem>
#include <stdexcept>
#include <string>

namespace rendak::test {

/// While it lives every change of one table of a library's catalogue fails, as on a disk that refuses.
class CatalogueTrap {
  public:
    CatalogueTrap(const std::filesystem::path& library, const std::string& table) {
        if (sqlite3_open((library / "library.sqlite").c_str(), &database_) != SQLITE_OK)
            throw std::runtime_error("no catalogue to trap");
        // A worker of the window may be writing at this moment.
        sqlite3_busy_timeout(database_, 20'000);
        for (const char* act : {"INSERT", "UPDATE", "DELETE"})
            run("CREATE TRIGGER trap_" + std::string(act) + " BEFORE " + act + " ON " + table +
                " BEGIN SELECT RAISE(ABORT, 'refused by the test'); END");
    }
    ~CatalogueTrap() {
        for (const char* act : {"INSERT", "UPDATE", "DELETE"}) run("DROP TRIGGER trap_" + std::string(act));
        sqlite3_close(database_);
    }
    CatalogueTrap(const CatalogueTrap&) = delete;
    CatalogueTrap& operator=(const CatalogueTrap&) = delete;

  private:
    void run(const std::string& sql) {
        char* problem = nullptr;
        if (sqlite3_exec(database_, sql.c_str(), nullptr, nullptr, &problem) != SQLITE_OK) {
            const std::string what = problem == nullptr ? "?" : problem;
            sqlite3_free(problem);
            throw std::runtime_error(what);
        }
    }
    sqlite3* database_ = nullptr;
};

}  // namespace rendak::test
