#include "picture/inferred/orders.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include <algorithm>

#include "syntax/names.hpp"

namespace orchard {

using rules::Sorts;

namespace {

constexpr std::int64_t longest_gap = 8;  // numbers between two neighbours that are added

}  // namespace

Orders::Orders(const GameCore& core, const Sorts& sorts) : core_(core) {
  const logic::Program& program = core_.program();
  const auto& relations = program.description().relations();
  for (std::size_t r = 0; r < relations.size(); ++r) {
    const rules::Relation& relation = relations[r];
    const auto id = rules::RelationId{static_cast<std::uint32_t>(r)};
    if (relation.arity != 2 || relation.keyword != rules::Keyword::none ||
        program.tables()[r].phase != rules::Phase::constant) {
      continue;
    }
    const auto first = sorts.sort(Sorts::Owner::relation, relation.name, 2, 0);
    const auto second = sorts.sort(Sorts::Owner::relation, relation.name, 2, 1);
    if (!first || !second) continue;
    if (auto order = chain_of(program.prepared_table(program.table(id)))) {
      chains_.push_back({id, *first, *second, std::move(*order)});
    }
  }
  std::ranges::stable_sort(
      chains_, [](const Chain& a, const Chain& b) { return a.order.size() > b.order.size(); });
}

// The order of a two-column table whose rows form one path, from its head; none otherwise.
std::optional<std::vector<TermId>> Orders::chain_of(const logic::Table& table) const {
  absl::flat_hash_map<TermId, TermId> after;
  absl::flat_hash_set<TermId> has_before;
  for (std::uint32_t row = 0; row < table.rows(); ++row) {
    const TermId* pair = table.row(row);
    if (!after.try_emplace(pair[0], pair[1]).second) return std::nullopt;
    if (!has_before.insert(pair[1]).second) return std::nullopt;
  }
  std::vector<TermId> order;
  for (std::uint32_t row = 0; row < table.rows(); ++row) {
    const TermId first = table.row(row)[0];
    if (has_before.contains(first)) continue;
    if (!order.empty()) return std::nullopt;  // a second path
    order.push_back(first);
  }
  if (order.empty()) return std::nullopt;
  for (auto next = after.find(order.back()); next != after.end(); next = after.find(order.back())) {
    order.push_back(next->second);
  }
  if (order.size() != table.rows() + 1) return std::nullopt;
  return order;
}

std::optional<std::int64_t> Orders::number(TermId id) const {
  const auto& entry = core_.terms()[id];
  return entry.arity == 0 ? integer_value(core_.terms().name(entry.symbol)) : std::nullopt;
}

bool Orders::are_numbers(std::span<const TermId> values) const {
  return std::ranges::all_of(values, [&](TermId id) { return number(id).has_value(); });
}

bool Orders::orders(std::span<const TermId> values, std::optional<Sorts::Sort> sort) const {
  if (values.empty()) return false;
  if (are_numbers(values)) return true;
  return sort && std::ranges::any_of(chains_, [&](const Chain& chain) {
           if (!chain.is_of(*sort)) return false;
           const absl::flat_hash_set<TermId> chained(chain.order.begin(), chain.order.end());
           return std::ranges::all_of(values, [&](TermId id) { return chained.contains(id); });
         });
}

bool Orders::is_chain(rules::RelationId relation) const {
  return std::ranges::any_of(chains_,
                             [&](const Chain& chain) { return chain.relation == relation; });
}

std::vector<TermId> Orders::in_order(std::vector<TermId> values,
                                     std::optional<Sorts::Sort> sort) const {
  const absl::flat_hash_set<TermId> wanted(values.begin(), values.end());
  const auto is_wanted = [&](TermId id) { return wanted.contains(id); };
  for (const Chain& chain : chains_) {
    if (!sort || !chain.is_of(*sort)) continue;
    if (std::ranges::count_if(chain.order, is_wanted) != std::ssize(wanted)) continue;
    const auto first = std::ranges::find_if(chain.order, is_wanted);
    const auto last = std::find_if(chain.order.rbegin(), chain.order.rend(), is_wanted).base();
    return {first, last};
  }
  std::ranges::sort(values, [&](TermId a, TermId b) { return core_.program().compare(a, b) < 0; });
  if (!are_numbers(values)) return values;
  std::vector<TermId> filled;
  for (const TermId id : values) {
    const std::int64_t next = *number(id);
    std::int64_t missing = filled.empty() ? next : *number(filled.back()) + 1;
    if (next - missing > longest_gap) missing = next;
    for (; missing < next; ++missing) {
      filled.push_back(core_.terms().add(Term::constant(std::to_string(missing))));
    }
    filled.push_back(id);
  }
  return filled;
}

}  // namespace orchard
