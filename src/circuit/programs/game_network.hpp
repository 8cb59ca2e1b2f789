// The network of a game: from what holds and what is done to what is legal, what follows, what is
// over and what it is worth.
#pragma once

#include <memory>
#include <vector>

#include "circuit/network/network.hpp"
#include "ground/ground_program.hpp"

namespace orchard::circuit {

struct GameNetwork {
  Network network;
  // Inputs: first the fluents in the order of the ground program, then the moves role by role.
  std::vector<Signal> fluents;
  std::vector<std::vector<Signal>> does;
  // Outputs.
  std::vector<Signal> next;                // by fluent; depends on `does`
  std::vector<std::vector<Signal>> legal;  // by role and move
  Signal terminal;
  std::vector<std::vector<Signal>> goals;     // by role and value of the ground program
  std::vector<std::vector<Signal>> percepts;  // by role and percept; depends on `does`
  std::vector<Signal> atoms;                  // by atom of the ground program
  // Of a guided ground program: whether the position makes a move legal that is not declared, and
  // the joint move a fluent. What the network says of what follows is right unless they hold.
  Signal undeclared_legal = never;
  Signal undeclared_next = never;
};

// Every derived atom as the disjunction of its clauses. Atoms that depend on themselves get their
// least fixpoint: where each clause asks for one of them at most (reachability), by eliminating one
// after the other, which is exact; else by as many rounds as there are atoms.
GameNetwork build_network(const ground::GroundProgram& program);

}  // namespace orchard::circuit
