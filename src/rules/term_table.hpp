// Ground terms as numbers: equal terms have equal ids.
//
// Invariants: an id once given stays valid and means the same term for the life of the table;
// ids are dense from 0; a term's arguments have smaller ids than the term.
// Threads: any number may read and add at once. Reading an entry takes no lock: entries never
// move and never change, and whoever has an id got it from the thread that made the entry (over
// the lock or by other synchronisation). `find` takes a shared lock, `add` an exclusive one;
// evaluators keep a cache of their own in front.
// Cost: about 60 bytes a term; find and add O(arity) expected.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <array>
#include <atomic>
#include <compare>
#include <cstdint>
#include <deque>
#include <memory>
#include <optional>
#include <shared_mutex>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/term.hpp"

namespace orchard::rules {

enum class TermId : std::uint32_t {};
inline constexpr TermId no_term{0xFFFFFFFF};

// A name; names have a numbering of their own, so that a functor need not be a term.
enum class SymbolId : std::uint32_t {};

class TermTable {
 public:
  struct Entry {
    SymbolId symbol{};
    std::uint32_t arity = 0;
    std::uint32_t depth = 0;            // 0 for a constant
    std::uint32_t size = 1;             // symbols when written out, at most 2^30
    const TermId* arguments = nullptr;  // `arity` of them
    std::span<const TermId> span() const { return {arguments, arity}; }
  };

  TermTable();
  ~TermTable();
  TermTable(const TermTable&) = delete;
  TermTable& operator=(const TermTable&) = delete;

  SymbolId add_symbol(std::string_view name);
  std::optional<SymbolId> find_symbol(std::string_view name) const;
  const std::string& name(SymbolId symbol) const;
  std::size_t symbol_count() const;

  TermId add(SymbolId symbol, std::span<const TermId> arguments);
  TermId find(SymbolId symbol, std::span<const TermId> arguments) const;  // or no_term

  // From and to the values that users hold. `term` must be ground.
  TermId add(const Term& term);
  TermId find(const Term& term) const;  // or no_term
  Term term(TermId id) const;
  std::string text(TermId id) const { return term(id).to_string(); }

  const Entry& operator[](TermId id) const;
  std::size_t size() const { return count_.load(std::memory_order_acquire); }

  // The order of `Term`, without making terms.
  std::strong_ordering compare(TermId a, TermId b) const;

 private:
  struct Key {
    SymbolId symbol;
    std::span<const TermId> arguments;
  };
  struct KeyHash {
    std::size_t operator()(const Key& key) const;
  };
  struct KeyEqual {
    bool operator()(const Key& a, const Key& b) const;
  };
  static constexpr std::uint32_t chunk_bits = 12;
  static constexpr std::uint32_t chunk_size = 1u << chunk_bits;
  static constexpr std::uint32_t chunk_count = 1u << 15;  // 2^27 terms at most
  using Chunk = std::array<Entry, chunk_size>;

  template <class Leaf>
  TermId convert(const Term& term, Leaf&& leaf) const;

  mutable std::shared_mutex mutex_;
  // Guarded by mutex_.
  absl::flat_hash_map<std::string_view, SymbolId> symbols_;
  absl::flat_hash_map<Key, TermId, KeyHash, KeyEqual> terms_;
  std::deque<std::vector<TermId>> argument_pool_;
  // Written under mutex_, read without; see above.
  std::unique_ptr<std::atomic<Chunk*>[]> chunks_;
  std::unique_ptr<std::atomic<std::array<std::string, chunk_size>*>[]> names_;
  std::atomic<std::size_t> count_{0};
  std::size_t symbol_count_ = 0;  // guarded by mutex_
};

}  // namespace orchard::rules
