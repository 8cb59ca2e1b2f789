// A game's network as clauses, ply by ply: what every position and every legal step obeys.
//
// Ply 0 is any position at all, reachable or not; the next plies follow from it by legal joint
// moves, and no position with a successor is an end. Gates become clauses when somebody asks
// for their literal. Source: Tseitin, "On the complexity of derivation in propositional calculus"
// (1968). One thread; the network must outlive it.
#pragma once

#include <vector>

#include "circuit/programs/game_network.hpp"
#include "prove/solver.hpp"

namespace orchard::prove {

using circuit::Signal;

class UnrolledGame {
 public:
  // `network` is that of the game, maybe with more gates, and may get further ones.
  UnrolledGame(Solver& solver, const circuit::GameNetwork& game, const circuit::Network& network);

  // One step more.
  void add_ply();
  std::size_t plies() const { return plies_.size(); }  // positions, one more than steps

  // A signal that depends on a position alone may be asked for at any ply; one that depends on the
  // moves as well wherever a step follows.
  int literal(std::size_t ply, Signal signal);
  // A literal for "one of these holds", which they imply and which implies them.
  int any_of(std::span<const int> literals);

  // The fluents of a ply in what the solver has found.
  std::vector<bool> found_position(std::size_t ply);
  // And the joint move made there, a number for each role; a step follows from the ply.
  std::vector<std::uint32_t> found_joint(std::size_t ply);

 private:
  using Literals = std::vector<int>;  // by node; 0: none yet

  void bind_inputs(Literals& literals, const std::vector<int>& fluents);
  void make_one_move(const std::vector<int>& does);

  Solver& solver_;
  const circuit::GameNetwork& game_;
  const circuit::Network& network_;
  int truth_;
  std::vector<Literals> plies_;
};

}  // namespace orchard::prove
