// Automorphisms of a game: ways to rename fluents, moves and roles that leave the rules as they
// are.
//
// Found on the ground rules alone, by colour refinement and trying out what it leaves open (McKay,
// Practical graph isomorphism, 1981): atoms, fluents, moves, roles and rules are the vertices of a
// graph, coloured by what they are; vertices that do not look the same from where they stand get
// different colours; where some still share one, one of them is singled out and the search goes on.
// Each automorphism is verified rule by rule before it is given. The ground program must outlive
// the finder; it is best one whose bodies are whole, since where they are split need not follow the
// board.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "ground/ground_program.hpp"

namespace orchard::explore {

struct Automorphism {
  std::vector<std::uint32_t> roles;               // by role: its image
  std::vector<std::uint32_t> fluents;             // by fluent
  std::vector<std::vector<std::uint32_t>> moves;  // by role and move: a move of the role's image
};

class SymmetryFinder {
 public:
  explicit SymmetryFinder(const ground::GroundProgram& program);

  // Called for one automorphism after the other, the identity among them; false to end.
  using Visit = std::function<bool(const Automorphism&)>;

  // Those that map the start to itself. False if the search was given up.
  bool each_of_start(const Visit& visit);
  // Those that map one role to another; what they do to the start is for whoever visits to judge.
  bool each_between(std::size_t role, std::size_t other, const Visit& visit);

 private:
  using Vertex = std::uint32_t;
  using Colour = std::uint64_t;
  using Colours = std::vector<Colour>;
  struct Edge {
    std::uint32_t label = 0;
    Vertex to = 0;
  };

  void add_edge(Vertex from, Vertex to, std::uint32_t label);
  Colours first_colours(bool with_start) const;
  void refine(Colours& colours);
  bool search(const Colours& from, const Colours& to, const Visit& visit);
  bool finish(const Colours& from, const Colours& to, const Visit& visit);
  bool is_automorphism(const std::vector<Vertex>& image) const;
  std::vector<std::uint32_t> clause_of(std::size_t number, const std::vector<Vertex>* image) const;

  const ground::GroundProgram& program_;
  const bool too_large_;              // nothing is looked for
  std::vector<std::size_t> clauses_;  // without repetition
  Vertex first_fluent_ = 0;
  Vertex first_move_ = 0;
  Vertex first_atom_ = 0;
  Vertex first_clause_ = 0;
  Vertex end_ = 0;
  std::vector<std::vector<Edge>> edges_;
  std::vector<Colour> kinds_;  // by vertex: what it is, whatever the start
  std::vector<std::vector<std::uint32_t>> sorted_clauses_;
  int refinements_ = 0;
};

}  // namespace orchard::explore
