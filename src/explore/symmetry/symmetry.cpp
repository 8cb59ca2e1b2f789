#include "explore/symmetry/symmetry.hpp"

#include <absl/hash/hash.h>

#include <algorithm>
#include <set>

#include "base/interruption.hpp"

namespace orchard::explore {

using ground::AtomId;
using ground::GroundClause;
using ground::GroundProgram;

namespace {

constexpr int most_refinements = 400;
constexpr std::size_t most_clauses = 60'000;

// What edges say.
enum Label : std::uint32_t {
  head_of,
  asked_by,
  denied_by,
  is_now,
  is_next,
  is_legal,
  is_done,
  of_role
};

std::uint64_t spread(std::uint64_t number) {
  number ^= number >> 32;
  number *= 0xD6E8FEB86659FD93;  // Source: the mixer of Wyhash-like generators (Maiga 2018)
  number ^= number >> 32;
  return number * 0xD6E8FEB86659FD93;
}

std::size_t classes(std::vector<std::uint64_t> colours) {
  std::ranges::sort(colours);
  return static_cast<std::size_t>(std::unique(colours.begin(), colours.end()) - colours.begin());
}

}  // namespace

SymmetryFinder::SymmetryFinder(const GroundProgram& program)
    : program_(program), too_large_(program.clauses().size() > most_clauses) {
  if (too_large_) return;
  const auto roles = static_cast<Vertex>(program.moves().size());
  first_fluent_ = roles;
  first_move_ = first_fluent_ + static_cast<Vertex>(program.fluents().size());
  first_atom_ = first_move_;
  for (const auto& moves : program.moves()) first_atom_ += static_cast<Vertex>(moves.size());
  first_clause_ = first_atom_ + static_cast<Vertex>(program.atom_count());
  std::set<std::vector<std::uint32_t>> known;
  for (std::size_t c = 0; c < program.clauses().size(); ++c) {
    if (known.insert(clause_of(c, nullptr)).second) clauses_.push_back(c);
  }
  sorted_clauses_.assign(known.begin(), known.end());
  end_ = first_clause_ + static_cast<Vertex>(clauses_.size());
  edges_.resize(end_);
  kinds_.assign(end_, 0);
  const auto atom = [&](AtomId id) { return first_atom_ + static_cast<Vertex>(id); };
  const auto name = [&](Vertex vertex, auto... what) { kinds_[vertex] = absl::HashOf(what...); };
  for (Vertex role = 0; role < roles; ++role) {
    const bool chance = program.terms().text(program.description().roles()[role]) == "random";
    name(role, 1, chance);
  }
  for (std::uint32_t a = 0; a < program.atom_count(); ++a) {
    name(first_atom_ + a, 2, static_cast<int>(program.keyword(AtomId{a})),
         static_cast<int>(program.phase(AtomId{a})));
  }
  for (std::size_t f = 0; f < program.fluents().size(); ++f) {
    const auto vertex = first_fluent_ + static_cast<Vertex>(f);
    name(vertex, 3);
    const GroundProgram::Fluent& fluent = program.fluents()[f];
    if (fluent.now != ground::no_atom) add_edge(vertex, atom(fluent.now), is_now);
    if (fluent.next != ground::no_atom) add_edge(vertex, atom(fluent.next), is_next);
  }
  Vertex vertex = first_move_;
  for (Vertex role = 0; role < roles; ++role) {
    for (const GroundProgram::Move& move : program.moves()[role]) {
      name(vertex, 4);
      add_edge(vertex, role, of_role);
      if (move.legal != ground::no_atom) add_edge(vertex, atom(move.legal), is_legal);
      if (move.does != ground::no_atom) add_edge(vertex, atom(move.does), is_done);
      ++vertex;
    }
    for (const GroundProgram::Value& value : program.goals()[role]) {
      if (value.atom == ground::no_atom) continue;
      name(atom(value.atom), 5, static_cast<std::uint32_t>(value.term));
      add_edge(atom(value.atom), role, of_role);
    }
    for (const GroundProgram::Value& value : program.percepts()[role]) {
      if (value.atom != ground::no_atom) add_edge(atom(value.atom), role, of_role);
    }
  }
  for (std::size_t c = 0; c < clauses_.size(); ++c) {
    const GroundClause& clause = program.clauses()[clauses_[c]];
    vertex = first_clause_ + static_cast<Vertex>(c);
    name(vertex, 6);
    add_edge(vertex, atom(clause.head), head_of);
    for (const AtomId id : program.positive(clause)) add_edge(vertex, atom(id), asked_by);
    for (const AtomId id : program.negative(clause)) add_edge(vertex, atom(id), denied_by);
  }
}

void SymmetryFinder::add_edge(Vertex from, Vertex to, std::uint32_t label) {
  edges_[from].push_back({label * 2, to});
  edges_[to].push_back({label * 2 + 1, from});
}

// The atoms of a clause, those of each kind sorted; of their images, if they are given.
std::vector<std::uint32_t> SymmetryFinder::clause_of(std::size_t number,
                                                     const std::vector<Vertex>* image) const {
  const GroundClause& clause = program_.clauses()[number];
  const auto of = [&](AtomId id) {
    const auto atom = static_cast<std::uint32_t>(id);
    return image == nullptr ? atom : (*image)[first_atom_ + atom] - first_atom_;
  };
  std::vector<std::uint32_t> result{of(clause.head), clause.positive};
  for (const AtomId id : program_.positive(clause)) result.push_back(of(id));
  for (const AtomId id : program_.negative(clause)) result.push_back(of(id));
  std::sort(result.begin() + 2, result.begin() + 2 + clause.positive);
  std::sort(result.begin() + 2 + clause.positive, result.end());
  return result;
}

SymmetryFinder::Colours SymmetryFinder::first_colours(bool with_start) const {
  Colours result = kinds_;
  for (std::size_t f = 0; with_start && f < program_.fluents().size(); ++f) {
    if (program_.fluents()[f].initial) result[first_fluent_ + f] ^= 1;
  }
  return result;
}

// Until no colour is split any more: each vertex takes part of its neighbours' colours in its own.
void SymmetryFinder::refine(Colours& colours) {
  ++refinements_;
  std::size_t before = classes(colours);
  while (true) {
    end_if_interrupted();
    Colours next(colours.size());
    for (Vertex v = 0; v < end_; ++v) {
      std::uint64_t sum = spread(colours[v]);
      for (const Edge& edge : edges_[v]) sum += spread(colours[edge.to] + edge.label * 0x9E3779B9);
      next[v] = spread(sum);
    }
    colours = std::move(next);
    const std::size_t now = classes(colours);
    if (now == before) return;
    before = now;
  }
}

// All ways to map the one colouring to the other. False to end.
bool SymmetryFinder::search(const Colours& from, const Colours& to, const Visit& visit) {
  if (refinements_ > most_refinements) return false;
  const auto in_order = [&](const Colours& colours, Vertex end) {
    std::vector<std::pair<Colour, Vertex>> result;
    for (Vertex v = 0; v < end; ++v) result.emplace_back(colours[v], v);
    std::ranges::sort(result);
    return result;
  };
  // What is seen of a game decides; atoms and rules that look alike beyond that are twins.
  const auto left = in_order(from, first_atom_);
  const auto right = in_order(to, first_atom_);
  std::size_t best = left.size();
  std::size_t best_size = left.size() + 1;
  for (std::size_t first = 0; first < left.size();) {
    std::size_t end = first;
    while (end < left.size() && left[end].first == left[first].first) ++end;
    for (std::size_t i = first; i < end; ++i) {
      if (right[i].first != left[first].first) return true;  // no way through here
    }
    if (end - first > 1 && end - first < best_size) {
      best = first;
      best_size = end - first;
    }
    first = end;
  }
  if (best == left.size()) return finish(from, to, visit);
  Colours single = from;
  single[left[best].second] ^= 2;
  refine(single);
  for (std::size_t i = best; i < best + best_size; ++i) {
    Colours other = to;
    other[right[i].second] ^= 2;
    refine(other);
    if (!search(single, other, visit)) return false;
  }
  return true;
}

// Twins among atoms and rules are taken in their order.
bool SymmetryFinder::finish(const Colours& from, const Colours& to, const Visit& visit) {
  std::vector<std::pair<Colour, Vertex>> left;
  std::vector<std::pair<Colour, Vertex>> right;
  for (Vertex v = 0; v < first_clause_; ++v) {
    left.emplace_back(from[v], v);
    right.emplace_back(to[v], v);
  }
  std::ranges::sort(left);
  std::ranges::sort(right);
  std::vector<Vertex> image(first_clause_);
  for (std::size_t i = 0; i < left.size(); ++i) {
    if (left[i].first != right[i].first) return true;
    image[left[i].second] = right[i].second;
  }
  if (!is_automorphism(image)) return true;
  Automorphism result;
  Vertex move = first_move_;
  std::vector<Vertex> first_of_role;
  for (const auto& moves : program_.moves()) {
    first_of_role.push_back(move);
    move += static_cast<Vertex>(moves.size());
  }
  for (Vertex role = 0; role < first_fluent_; ++role) {
    result.roles.push_back(image[role]);
    auto& moves = result.moves.emplace_back();
    for (std::size_t m = 0; m < program_.moves()[role].size(); ++m) {
      moves.push_back(image[first_of_role[role] + m] - first_of_role[image[role]]);
    }
  }
  for (Vertex f = first_fluent_; f < first_move_; ++f) {
    result.fluents.push_back(image[f] - first_fluent_);
  }
  return visit(result);
}

// Rule by rule; that atoms keep what they are and whose they are is seen by their edges.
bool SymmetryFinder::is_automorphism(const std::vector<Vertex>& image) const {
  for (Vertex v = 0; v < first_clause_; ++v) {
    if (kinds_[v] != kinds_[image[v]]) return false;
    for (const Edge& edge : edges_[v]) {
      if (edge.to >= first_clause_) continue;
      const std::vector<Edge>& others = edges_[image[v]];
      const bool there = std::ranges::any_of(others, [&](const Edge& other) {
        return other.label == edge.label && other.to == image[edge.to];
      });
      if (!there) return false;
    }
  }
  return std::ranges::all_of(clauses_, [&](std::size_t clause) {
    return std::ranges::binary_search(sorted_clauses_, clause_of(clause, &image));
  });
}

bool SymmetryFinder::each_of_start(const Visit& visit) {
  if (too_large_) return false;
  refinements_ = 0;
  Colours colours = first_colours(true);
  refine(colours);
  search(colours, colours, visit);
  return refinements_ <= most_refinements;
}

bool SymmetryFinder::each_between(std::size_t role, std::size_t other, const Visit& visit) {
  if (too_large_) return false;
  refinements_ = 0;
  Colours from = first_colours(false);
  Colours to = from;
  from[role] ^= 2;
  to[other] ^= 2;
  refine(from);
  refine(to);
  search(from, to, visit);
  return refinements_ <= most_refinements;
}

}  // namespace orchard::explore
