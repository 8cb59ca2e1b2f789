#include "picture/inferred/orders.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <map>

#include "picture/inferred/parts.hpp"
#include "syntax/names.hpp"

namespace orchard {

using rules::Sorts;

namespace {

constexpr std::int64_t longest_gap = 8;          // numbers between two neighbours that are added
constexpr std::size_t shortest_known_again = 3;  // a row of two may be anything

}  // namespace

Orders::Orders(const GameCore& core, const Sorts& sorts) : core_(core) {
  const logic::Program& program = core_.program();
  const auto& relations = program.description().relations();
  for (std::size_t r = 0; r < relations.size(); ++r) {
    const rules::Relation& relation = relations[r];
    const auto id = rules::RelationId{static_cast<std::uint32_t>(r)};
    if (relation.arity != 2 || relation.keyword != rules::Keyword::none) continue;
    const auto first = sorts.sort(Sorts::Owner::relation, relation.name, 2, 0);
    const auto second = sorts.sort(Sorts::Owner::relation, relation.name, 2, 1);
    if (!first || !second) continue;
    if (auto order = chain_of(pairs_of(id))) {
      chains_.push_back({id, *first, *second, std::move(*order)});
    }
  }
  std::ranges::stable_sort(
      chains_, [](const Chain& a, const Chain& b) { return a.order.size() > b.order.size(); });
}

// What a relation says that never changes. Facts that no rule asks for are there all the same: they
// may be there for the drawing.
std::vector<Orders::Pair> Orders::pairs_of(rules::RelationId id) const {
  const logic::Program& program = core_.program();
  std::vector<Pair> pairs;
  if (program.tables()[index_of(id)].phase == rules::Phase::constant) {
    const logic::Table& table = program.prepared_table(program.table(id));
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      pairs.emplace_back(table.row(row)[0], table.row(row)[1]);
    }
    return pairs;
  }
  const rules::Description& description = program.description();
  for (const std::uint32_t number : description.relation(id).clauses) {
    const rules::Clause& fact = description.clauses()[number];
    const rules::Pattern& names = fact.head.arguments;
    if (!fact.body.empty() || names.size() != 2) return {};
    pairs.emplace_back(core_.terms().add(names[0].symbol(), {}),
                       core_.terms().add(names[1].symbol(), {}));
  }
  return pairs;
}

// The order of pairs that form one path, from its head; none otherwise.
std::optional<std::vector<TermId>> Orders::chain_of(const std::vector<Pair>& pairs) const {
  absl::flat_hash_map<TermId, TermId> after;
  absl::flat_hash_set<TermId> has_before;
  for (const auto& [first, second] : pairs) {
    if (!after.try_emplace(first, second).second) return std::nullopt;
    if (!has_before.insert(second).second) return std::nullopt;
  }
  std::vector<TermId> order;
  for (const auto& [first, second] : pairs) {
    if (has_before.contains(first)) continue;
    if (!order.empty()) return std::nullopt;  // a second path
    order.push_back(first);
  }
  if (order.empty()) return std::nullopt;
  for (auto next = after.find(order.back()); next != after.end(); next = after.find(order.back())) {
    order.push_back(next->second);
  }
  if (order.size() != pairs.size() + 1) return std::nullopt;
  return order;
}

std::optional<std::int64_t> Orders::number(TermId id) const {
  const auto& entry = core_.terms()[id];
  return entry.arity == 0 ? integer_value(core_.terms().name(entry.symbol)) : std::nullopt;
}

bool Orders::are_numbers(std::span<const TermId> values) const {
  return std::ranges::all_of(values, [&](TermId id) { return number(id).has_value(); });
}

// Names of one beginning with a number behind it.
bool Orders::are_numbered(std::span<const TermId> values) const {
  const auto beginning = [&](TermId id) {
    const auto& entry = core_.terms()[id];
    const std::string& name = core_.terms().name(entry.symbol);
    const std::size_t end = name.find_last_not_of("0123456789");
    const bool numbered = entry.arity == 0 && end != std::string::npos && end + 1 < name.size();
    return numbered ? name.substr(0, end + 1) : std::string();
  };
  const std::string first = beginning(values.front());
  return !first.empty() &&
         std::ranges::all_of(values, [&](TermId id) { return beginning(id) == first; });
}

bool Orders::orders(std::span<const TermId> values, std::optional<Sorts::Sort> sort) const {
  if (values.empty()) return false;
  if (are_numbers(values) || are_numbered(values) || nesting(core_.terms(), values)) return true;
  return std::ranges::any_of(chains_, [&](const Chain& chain) {
    // Names are known again in a row of another sort: where facts are spelt out one by one,
    // no variable tells that they are the same.
    const bool known = sort && chain.is_of(*sort);
    if (!known && chain.order.size() < shortest_known_again) return false;
    const absl::flat_hash_set<TermId> chained(chain.order.begin(), chain.order.end());
    return std::ranges::all_of(values, [&](TermId id) { return chained.contains(id); });
  });
}

bool Orders::is_chain(rules::RelationId relation) const {
  return std::ranges::any_of(chains_,
                             [&](const Chain& chain) { return chain.relation == relation; });
}

// With those between them, if few are missing.
std::vector<TermId> Orders::in_order_of_nesting(const std::vector<TermId>& values) const {
  rules::TermTable& terms = core_.terms();
  const std::vector<std::size_t> times = *nesting(terms, values);
  std::map<std::size_t, TermId> by_times;
  for (std::size_t i = 0; i < values.size(); ++i) by_times.emplace(times[i], values[i]);
  std::vector<TermId> filled;
  std::size_t last = by_times.begin()->first;
  for (const auto& [here, id] : by_times) {
    if (here - last <= longest_gap) {
      while (++last < here) {
        const std::vector<TermId> inside{filled.back()};
        filled.push_back(terms.add(terms[id].symbol, inside));
      }
    }
    filled.push_back(id);
    last = here;
  }
  return filled;
}

std::vector<TermId> Orders::in_order(std::vector<TermId> values,
                                     std::optional<Sorts::Sort> sort) const {
  if (values.empty()) return values;
  const absl::flat_hash_set<TermId> wanted(values.begin(), values.end());
  const auto is_wanted = [&](TermId id) { return wanted.contains(id); };
  for (const Chain& chain : chains_) {
    const bool known = sort && chain.is_of(*sort);
    if (!known && (are_numbers(chain.order) || chain.order.size() < shortest_known_again)) continue;
    if (std::ranges::count_if(chain.order, is_wanted) != std::ssize(wanted)) continue;
    const auto first = std::ranges::find_if(chain.order, is_wanted);
    const auto last = std::find_if(chain.order.rbegin(), chain.order.rend(), is_wanted).base();
    return {first, last};
  }
  if (nesting(core_.terms(), values)) return in_order_of_nesting(values);
  std::ranges::sort(values, [&](TermId a, TermId b) { return core_.program().compare(a, b) < 0; });
  if (are_numbered(values)) {
    // b2 before b10.
    std::ranges::stable_sort(
        values, {}, [&](TermId id) { return core_.terms().name(core_.terms()[id].symbol).size(); });
  }
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
