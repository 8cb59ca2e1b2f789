// The instances of one predicate found so far, with hash indexes on sets of columns, made when
// first asked for.
//
// Rows keep their numbers. An index chains the rows of a key in ascending order, so that a join can
// stop at the rows that were there before. Finding and adding take constant time for each index,
// and no memory of their own for each row but numbers. One owner at a time.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <cstdint>
#include <span>
#include <vector>

#include "rules/term_table.hpp"

namespace orchard::ground {

using rules::TermId;

class FactStore {
 public:
  static constexpr std::uint32_t no_row = 0xFFFFFFFF;

  explicit FactStore(std::uint32_t columns) : columns_(columns) {}

  std::uint32_t columns() const { return columns_; }
  std::uint32_t rows() const { return rows_; }
  std::span<const TermId> row(std::uint32_t number) const {
    return {cells_.data() + std::size_t{number} * columns_, columns_};
  }

  // The number of the row, and whether it is new.
  std::pair<std::uint32_t, bool> insert(std::span<const TermId> row);
  std::uint32_t find(std::span<const TermId> row) const;  // or no_row

  // The number of an index on a set of columns: bit c of `mask` for column c (up to 32).
  std::uint32_t index_on(std::uint32_t mask);
  // The first row whose columns of that index may be the key, and the one after a row; no_row if
  // there is none. The caller compares them with the key.
  std::uint32_t first_with(std::uint32_t index, std::span<const TermId> key) const;
  std::uint32_t next_with(std::uint32_t index, std::uint32_t row) const {
    return indexes_[index].next[row];
  }
  void drop_indexes() { indexes_.clear(); }
  // Of cells and indexes, about.
  std::uint64_t bytes() const;

 private:
  struct Chain {
    std::uint32_t first;
    std::uint32_t last;
  };
  struct Index {
    std::uint32_t mask;
    absl::flat_hash_map<std::uint64_t, Chain> chains;  // by hash of the key
    std::vector<std::uint32_t> next;                   // by row
  };

  static std::uint64_t hash(std::span<const TermId> key);
  void add_to(Index& index, std::uint32_t number);

  std::uint32_t columns_;
  std::uint32_t rows_ = 0;
  std::vector<TermId> cells_;
  // Rows by hash; one whose hash is taken by another row stands at the next free number.
  absl::flat_hash_map<std::uint64_t, std::uint32_t> whole_;
  std::vector<Index> indexes_;
  std::vector<TermId> key_;  // being built
};

}  // namespace orchard::ground
