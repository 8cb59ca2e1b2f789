// Results of series in a SQLite file, a row a match, written as each match ends: what is stopped or
// killed goes on where it was, and loses no finished match.
//
//   auto store = orchard::ResultsStore::open("results.sqlite").value();
//   options.store = store;
//   orchard::run_series(game, options);   // plays only what is not there yet
//
// A series is known by its rules, players, seed, start and options, so the same call goes on with
// it. A handle; copies share the file. Any thread may use it; several processes may, too.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "orchard/record.hpp"
#include "orchard/result.hpp"

namespace orchard {

// Results of matches in a SQLite file; several processes may write to it.
class ResultsStore {
 public:
  // Makes the file if there is none. Fails with `cannot-store` (no such folder, no such format).
  static Result<ResultsStore> open(const std::string& path);

  // One stored series.
  struct Entry {
    // The name of the description that was played.
    std::string game;
    // The names of the players, in the order of their seats.
    std::vector<std::string> players;
    // The number of matches stored so far.
    std::uint64_t matches = 0;
  };
  // The series there are, in the order of their beginning. Fails with `cannot-store`.
  Result<std::vector<Entry>> entries() const;
  // The whole matches that are kept (SeriesOptions::moves), series by series. Fails with
  // `cannot-store`, and with `bad-record` where one was damaged.
  Result<std::vector<MatchRecord>> records() const;

 private:
  friend class StoredSeries;
  struct File;
  static Result<ResultsStore> open_now(const std::string& path);
  explicit ResultsStore(std::shared_ptr<File> file) : file_(std::move(file)) {}
  std::shared_ptr<File> file_;
};

}  // namespace orchard
