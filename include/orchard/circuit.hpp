// The circuit behind a game: what the rules become, in an open format and in numbers. A game may be
// asked from several threads at once; the circuit is made by the first that asks.
#pragma once

#include <cstdint>
#include <string>

#include "orchard/budget.hpp"
#include "orchard/game.hpp"

namespace orchard {

// Whether the rules have a circuit, exact for every position; the first call makes it.
bool has_circuit(const Game& game);

// The game with a circuit, where its rules have none: because their terms grow without end, say, as
// a list of moves does, or because they foresee far more than play can reach. Every position that
// can be reached from the start, and from the positions given, is looked at one by one by the
// reference evaluator, and the circuit is made of what held and was legal there. It is the same
// game, with positions of its own; positions that cannot be reached from those are not to be asked
// about. A game that has a circuit is given back as it is. Fails with the reasons why there is none
// if the budget (seconds, positions, the stop token) ends first; the reasons are limits.
// With `first_plies` it is then made of the positions up to a depth of which all were looked at:
// `review_rules` and `find_position` look no further than these and say so (`Ending::depth`); for
// everything else the game goes on without a circuit. It fails only where there was not even time
// for what follows the start.
// O(positions × moves), with some ten thousand steps a second.
enum class CircuitReach { every_position, first_plies };
Result<Game> with_reached_circuit(const Game& game, const Budget& budget,
                                  const std::vector<Position>& also_from = {},
                                  CircuitReach reach = CircuitReach::every_position);
// How many plies from the start a circuit is exact that was made of the first plies only.
std::optional<std::uint64_t> circuit_plies(const Game& game);

// The game as a sequential circuit in the AIGER format (version 1.9, ASCII): an input for each
// move, a latch for each fluent, set as at the start; outputs are `terminal`, each goal value of
// each role, each legal move and each percept. The symbol table names them all as terms. Feeding
// one legal move a role, step by step, plays the game. Fails with `too-many-instances` if the rules
// cannot be instantiated.
// Source: Biere, Heljanko and Wieringa, "AIGER 1.9 and beyond" (2011).
Result<std::string> to_aiger(const Game& game);

// The same game without variables, one fact or rule of the language a line. Fails as to_aiger does.
Result<std::string> ground_rules(const Game& game);

// The circuit as rules of the language, with a relation gate_N for each gate: the same game once
// more, for whoever wants to read the circuit or take it elsewhere. Fails as to_aiger does.
Result<std::string> network_rules(const Game& game);

// How large the circuit of a game is, pass by pass, and how long it took to make.
struct CircuitStatistics {
  // The number of fluents that can hold in some position.
  std::size_t fluents = 0;
  std::size_t moves = 0;           // of all roles
  std::size_t atoms = 0;           // that can matter in a reachable position
  std::size_t clauses = 0;         // ground
  std::size_t gates = 0;           // And gates of any width, of the game itself
  std::size_t play_gates = 0;      // … with random choice and beginning again
  std::size_t play_pairs = 0;      // … as gates of two inputs
  std::size_t operations = 0;      // … as functions of three: what a ply of random play costs
  std::size_t choices = 0;         // random choices a ply; roles that move in turn share one
  std::size_t scratch_blocks = 0;  // values that find no register
  std::size_t code_bytes = 0;      // of machine code; 0 for the interpreter
  std::string executor;            // what runs it on this machine
  // Seconds spent on instantiating the rules.
  double ground_seconds = 0;
  // Seconds spent on building the network.
  double network_seconds = 0;
  // Seconds spent on mapping the network to operations.
  double mapping_seconds = 0;
  // Seconds spent on making machine code.
  double code_seconds = 0;
};
// Makes the circuit anew and measures. Fails as to_aiger does.
Result<CircuitStatistics> circuit_statistics(const Game& game);

}  // namespace orchard
