// The instances of one relation: rows of term ids without repetition, with hash indexes on chosen
// sets of columns.
//
// Invariants: no two rows are equal; index 0 is on all columns; every index chains every row.
// Rows keep their numbers until `clear`; chains go from newer rows to older ones, so that whoever
// walks one never meets rows that are added meanwhile.
// Threads: const methods may run at once; anything else needs one owner.
// Cost: insert O(columns × indexes) expected; clear O(indexes), keeping the memory.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "rules/term_table.hpp"

namespace orchard::logic {

using rules::TermId;

class Table {
 public:
  static constexpr std::uint32_t no_row = 0xFFFFFFFF;

  explicit Table(std::uint32_t arity);

  std::uint32_t arity() const { return arity_; }
  std::uint32_t rows() const { return rows_; }
  const TermId* row(std::uint32_t number) const {
    return cells_.data() + std::size_t{number} * arity_;
  }

  // The number of an index on these columns (ascending), made and filled if there is none yet.
  std::uint32_t index_on(std::span<const std::uint32_t> columns);
  std::span<const std::uint32_t> columns(std::uint32_t index) const {
    return indexes_[index].columns;
  }

  bool insert(const TermId* row);  // false if it is there already
  bool contains(const TermId* row) const { return find(row, hash(row, arity_)) != no_row; }
  void clear();

  // The rows whose key may be the one with this hash: a chain, to be compared by the caller.
  std::uint32_t first(std::uint32_t index, std::uint32_t key_hash) const {
    const Index& in = indexes_[index];
    if (in.heads.empty()) return no_row;
    const Head& head = in.heads[key_hash & (in.heads.size() - 1)];
    return head.stamp == stamp_ ? head.row : no_row;
  }
  std::uint32_t next(std::uint32_t index, std::uint32_t row) const {
    return indexes_[index].chain[row];
  }

  // The hash of `count` ids in a row, as the indexes use it.
  static std::uint32_t hash(const TermId* key, std::size_t count) {
    std::uint64_t value = 0;
    for (std::size_t i = 0; i < count; ++i) value = step(value, key[i]);
    return finish(value);
  }

 private:
  struct Head {
    std::uint32_t stamp = 0;  // holds since the last clear if it is that of the table
    std::uint32_t row = no_row;
  };
  struct Index {
    std::vector<std::uint32_t> columns;
    std::vector<Head> heads;           // newest rows by hash; a power of two, or empty
    std::vector<std::uint32_t> chain;  // for each row, the next one with the same head
  };

  static std::uint64_t step(std::uint64_t value, TermId id) {
    return (value ^ static_cast<std::uint32_t>(id)) * 0x9E3779B97F4A7C15ULL;
  }
  static std::uint32_t finish(std::uint64_t value) {
    return static_cast<std::uint32_t>(value >> 32);
  }
  std::uint32_t hash_of_row(const Index& index, std::uint32_t row) const;
  std::uint32_t find(const TermId* row, std::uint32_t row_hash) const;
  void link(Index& index, std::uint32_t row);
  void grow();

  std::uint32_t arity_;
  std::uint32_t rows_ = 0;
  std::uint32_t stamp_ = 1;  // counts how often the table was cleared
  std::vector<TermId> cells_;
  std::vector<Index> indexes_;
};

}  // namespace orchard::logic
