#include "rules/term_table.hpp"

#include <absl/hash/hash.h>

#include <algorithm>
#include <mutex>
#include <stdexcept>

#include "syntax/tree.hpp"

namespace orchard::rules {
namespace {

constexpr std::uint32_t largest_size = 1u << 30;  // sizes above are not told apart
constexpr std::size_t pool_block = 1u << 14;      // argument ids in a block of the pool

std::uint32_t index(TermId id) {
  return static_cast<std::uint32_t>(id);
}
std::uint32_t index(SymbolId id) {
  return static_cast<std::uint32_t>(id);
}

}  // namespace

std::size_t TermTable::KeyHash::operator()(const Key& key) const {
  return absl::HashOf(index(key.symbol),
                      absl::Span<const TermId>(key.arguments.data(), key.arguments.size()));
}

bool TermTable::KeyEqual::operator()(const Key& a, const Key& b) const {
  return a.symbol == b.symbol && std::ranges::equal(a.arguments, b.arguments);
}

TermTable::TermTable()
    : chunks_(new std::atomic<Chunk*>[chunk_count]()),
      names_(new std::atomic<std::array<std::string, chunk_size>*>[chunk_count]()) {}

TermTable::~TermTable() {
  for (std::uint32_t i = 0; i < chunk_count && chunks_[i]; ++i) delete chunks_[i].load();
  for (std::uint32_t i = 0; i < chunk_count && names_[i]; ++i) delete names_[i].load();
}

SymbolId TermTable::add_symbol(std::string_view name) {
  if (const auto known = find_symbol(name)) return *known;
  const std::unique_lock lock(mutex_);
  if (const auto known = symbols_.find(name); known != symbols_.end()) return known->second;
  const auto number = static_cast<std::uint32_t>(symbol_count_++);
  if (number >> chunk_bits >= chunk_count) throw std::length_error("too many names in one game");
  auto& chunk = names_[number >> chunk_bits];
  if (chunk == nullptr) chunk = new std::array<std::string, chunk_size>();
  std::string& stored = (*chunk)[number % chunk_size];
  stored = std::string(name);
  symbols_.emplace(stored, SymbolId{number});
  return SymbolId{number};
}

std::optional<SymbolId> TermTable::find_symbol(std::string_view name) const {
  const std::shared_lock lock(mutex_);
  const auto known = symbols_.find(name);
  return known == symbols_.end() ? std::nullopt : std::optional(known->second);
}

const std::string& TermTable::name(SymbolId symbol) const {
  return (*names_[index(symbol) >> chunk_bits].load(
      std::memory_order_acquire))[index(symbol) % chunk_size];
}

std::size_t TermTable::symbol_count() const {
  const std::shared_lock lock(mutex_);
  return symbol_count_;
}

TermId TermTable::find(SymbolId symbol, std::span<const TermId> arguments) const {
  const std::shared_lock lock(mutex_);
  const auto known = terms_.find(Key{symbol, arguments});
  return known == terms_.end() ? no_term : known->second;
}

TermId TermTable::add(SymbolId symbol, std::span<const TermId> arguments) {
  if (const TermId known = find(symbol, arguments); known != no_term) return known;
  const std::unique_lock lock(mutex_);
  if (const auto known = terms_.find(Key{symbol, arguments}); known != terms_.end()) {
    return known->second;
  }
  const auto number = static_cast<std::uint32_t>(count_.load(std::memory_order_relaxed));
  if (number >> chunk_bits >= chunk_count) throw std::length_error("too many terms in one game");
  auto& chunk = chunks_[number >> chunk_bits];
  if (chunk == nullptr) chunk = new Chunk();

  Entry entry{symbol, static_cast<std::uint32_t>(arguments.size()), 0, 1, nullptr};
  if (!arguments.empty()) {
    if (argument_pool_.empty() ||
        argument_pool_.back().capacity() - argument_pool_.back().size() < arguments.size()) {
      argument_pool_.emplace_back().reserve(std::max(pool_block, arguments.size()));
    }
    std::vector<TermId>& block = argument_pool_.back();  // never grows past its reservation
    entry.arguments = block.data() + block.size();
    block.insert(block.end(), arguments.begin(), arguments.end());
    for (const TermId argument : arguments) {
      entry.depth = std::max(entry.depth, (*this)[argument].depth + 1);
      entry.size = std::min(entry.size + (*this)[argument].size, largest_size);
    }
  }
  (*chunk)[number % chunk_size] = entry;
  count_.store(number + 1, std::memory_order_release);
  terms_.emplace(Key{symbol, entry.span()}, TermId{number});
  return TermId{number};
}

const TermTable::Entry& TermTable::operator[](TermId id) const {
  const Chunk* chunk = chunks_[index(id) >> chunk_bits].load(std::memory_order_acquire);
  return (*chunk)[index(id) % chunk_size];
}

// Builds the id from the last symbol to the first: a symbol's arguments are then the topmost ids
// of the stack. `leaf` maps (name, arguments) to an id.
template <class Leaf>
TermId TermTable::convert(const Term& term, Leaf&& leaf) const {
  std::vector<Term::Symbol> symbols = term.symbols();
  std::vector<TermId> stack;
  for (std::size_t i = symbols.size(); i-- > 0;) {
    const std::size_t arity = symbols[i].arity;
    std::vector<TermId> arguments(stack.end() - static_cast<std::ptrdiff_t>(arity), stack.end());
    std::ranges::reverse(arguments);
    const TermId id = leaf(symbols[i].name, arguments);
    if (id == no_term) return no_term;
    stack.resize(stack.size() - arity);
    stack.push_back(id);
  }
  return stack.back();
}

TermId TermTable::add(const Term& term) {
  return convert(term, [this](const std::string& name, const std::vector<TermId>& arguments) {
    return add(add_symbol(name), arguments);
  });
}

TermId TermTable::find(const Term& term) const {
  return convert(term, [this](const std::string& name, const std::vector<TermId>& arguments) {
    const auto symbol = find_symbol(name);
    return symbol ? find(*symbol, arguments) : no_term;
  });
}

Term TermTable::term(TermId id) const {
  std::vector<Term::Symbol> symbols;
  std::vector<TermId> pending{id};
  while (!pending.empty()) {
    const Entry& entry = (*this)[pending.back()];
    pending.pop_back();
    symbols.push_back({name(entry.symbol), entry.arity, 1});
    for (std::uint32_t i = entry.arity; i-- > 0;) pending.push_back(entry.arguments[i]);
  }
  syntax::assign_sizes(symbols);
  return Term::from_symbols(std::move(symbols));
}

std::strong_ordering TermTable::compare(TermId a, TermId b) const {
  std::vector<std::pair<TermId, TermId>> pending{{a, b}};
  while (!pending.empty()) {
    const auto [left_id, right_id] = pending.back();
    pending.pop_back();
    if (left_id == right_id) continue;
    const Entry& left = (*this)[left_id];
    const Entry& right = (*this)[right_id];
    if (left.symbol != right.symbol) {
      const auto order = compare_names(name(left.symbol), name(right.symbol));
      if (order != 0) return order;
    }
    if (left.arity != right.arity) return left.arity <=> right.arity;
    for (std::uint32_t i = left.arity; i-- > 0;) {
      pending.emplace_back(left.arguments[i], right.arguments[i]);
    }
  }
  return std::strong_ordering::equal;
}

}  // namespace orchard::rules
