// One series in a results store.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "match/played_match.hpp"
#include "orchard/results_store.hpp"

namespace orchard {

class StoredSeries {
 public:
  // `key`: everything that makes two series the same. Fails with `cannot-store`.
  static Result<StoredSeries> open(const ResultsStore& store, const std::string& key,
                                   const std::string& game,
                                   const std::vector<std::string>& players);

  // The matches there are, by number.
  Result<std::map<std::uint64_t, PlayedMatch>> matches() const;
  // Adds one, for good when it returns. Any thread.
  Diagnostics add(std::uint64_t number, const PlayedMatch& match);

 private:
  StoredSeries(ResultsStore store, std::int64_t id) : store_(std::move(store)), id_(id) {}
  ResultsStore store_;
  std::int64_t id_;
};

}  // namespace orchard
