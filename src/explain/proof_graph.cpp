#include "explain/proof_graph.hpp"

#include <queue>

namespace orchard::explain {

using rules::Keyword;
using rules::Literal;

bool ProofGraph::is_leaf(const Atom& atom) const {
  const rules::Description& description = facts_.program().description();
  const Keyword keyword = description.relation(atom.relation).keyword;
  if (keyword == Keyword::true_ || keyword == Keyword::does) return true;
  if (in_full_ || root_is_constant_) return false;
  return facts_.program().tables()[rules::index_of(atom.relation)].phase == rules::Phase::constant;
}

std::size_t ProofGraph::node(const Atom& atom) {
  const auto [known, is_new] = numbers_.try_emplace(atom, nodes_.size());
  if (is_new) {
    nodes_.push_back({atom, {}, {}, {}, is_leaf(atom)});
  }
  return known->second;
}

// All instances of clauses that give the atom.
bool ProofGraph::expand(std::size_t number) {
  const Atom atom = nodes_[number].atom;
  const rules::Description& description = facts_.program().description();
  for (const std::uint32_t clause : description.relation(atom.relation).clauses) {
    ClauseSearch search(facts_, clause);
    if (!search.begin(atom.row)) continue;
    search.all(steps_, [&](const Bindings& bindings) {
      Instance next{number, {clause, bindings}, {}, 0, 1};
      for (const Literal& literal : search.clause().body) {
        if (literal.kind != Literal::Kind::positive) {
          ++next.cost;
          continue;
        }
        next.premises.push_back(node({literal.atom.relation, search.arguments(literal, bindings)}));
      }
      next.open = next.premises.size();
      for (const std::size_t premise : next.premises) {
        nodes_[premise].used_by.push_back(instances_.size());
      }
      instances_.push_back(std::move(next));
      return true;
    });
    if (steps_ == 0) return false;
  }
  return true;
}

bool ProofGraph::prove(const Atom& atom) {
  if (const auto known = numbers_.find(atom); known != numbers_.end()) {
    if (nodes_[known->second].cost) return true;
  }
  root_is_constant_ =
      facts_.program().tables()[rules::index_of(atom.relation)].phase == rules::Phase::constant;
  const std::size_t first = nodes_.size();
  const std::size_t first_instance = instances_.size();
  const std::size_t root = node(atom);
  bool complete = true;
  for (std::size_t at = first; at < nodes_.size() && complete; ++at) {
    if (!nodes_[at].leaf) complete = expand(at);
  }
  settle(first, first_instance);
  return nodes_[root].cost.has_value();
}

void ProofGraph::settle(std::size_t first_node, std::size_t first_instance) {
  using Entry = std::pair<std::uint64_t, std::size_t>;  // cost, node
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
  std::vector<std::optional<std::uint64_t>> found(nodes_.size());
  const auto offer = [&](std::size_t instance) {
    const Instance& by = instances_[instance];
    if (found[by.head] && *found[by.head] <= by.cost) return;
    if (nodes_[by.head].cost) return;
    found[by.head] = by.cost;
    nodes_[by.head].best = instance;
    queue.emplace(by.cost, by.head);
  };
  const auto done = [&](std::size_t number) {
    for (const std::size_t instance : nodes_[number].used_by) {
      if (instance < first_instance) continue;
      Instance& next = instances_[instance];
      next.cost += *nodes_[number].cost;
      if (--next.open == 0) offer(instance);
    }
  };
  for (std::size_t i = first_instance; i < instances_.size(); ++i) {
    if (instances_[i].premises.empty()) offer(i);
  }
  for (std::size_t n = 0; n < first_node; ++n) {
    if (nodes_[n].cost) done(n);  // proved for an earlier question
  }
  for (std::size_t n = first_node; n < nodes_.size(); ++n) {
    if (!nodes_[n].leaf) continue;
    nodes_[n].cost = 1;
    done(n);
  }
  while (!queue.empty()) {
    const auto [cost, number] = queue.top();
    queue.pop();
    if (nodes_[number].cost) continue;
    nodes_[number].cost = cost;
    done(number);
  }
}

const ProofGraph::Step* ProofGraph::step(const Atom& atom) const {
  const auto known = numbers_.find(atom);
  if (known == numbers_.end() || !nodes_[known->second].best) return nullptr;
  return &instances_[*nodes_[known->second].best].step;
}

}  // namespace orchard::explain
