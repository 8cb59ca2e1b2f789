// Options of the form ROLE=VALUE: who sits where, and what they are called.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>

#include "cli/call.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/opponent_rules.hpp"

namespace orchard::cli {

// Why a name cannot be one that is shown: a terminal would obey what stands in it.
std::optional<Diagnostic> fault_in_name(const std::string& name);

// Puts what the call gives over what `values` has, by role. Fails if a role is none of the game's.
Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values);

// Somebody who plays in a series of matches.
struct NamedPlayer {
  std::string name;
  std::string who;
};
// The players of --player NAME=WHO, or of --seat and --name, in the order of the seats. A name that
// is used again gets a number.
Result<std::vector<NamedPlayer>> players_of(const Call& call, const Game& game);

// The text of a learnt table; fails with `cannot-read`.
Result<std::string> read_table(const std::string& file);

// Makes opponents for one seat, from any thread.
using OpponentMaker = std::function<std::unique_ptr<Opponent>(std::uint64_t seed)>;

// One from a file, with a digest of what the file holds.
struct FilePlayer {
  OpponentMaker make;  // empty for others, which are as of make_opponent
  std::string content;
};

// Whether a player is one of those that follow.
bool names_a_file(const std::string& who);

// For learned:FILE, a learnt table, solved:FILE, a kept solution, and rules:FILE or …@FILE, rules
// of an opponent: the file is read once. Empty for others, which are as of make_opponent.
Result<FilePlayer> player_from_file(const Game& game, const std::string& who);

// The same for any player but a learning one.
Result<OpponentMaker> maker_of(const Game& game, const std::string& who);

// For learning:FILE, of a role: a player that learns and writes its table to the file, which it
// keeps to itself as long as it lives: after every game, or now and then where games are quick.
// Empty for others.
Result<std::unique_ptr<Opponent>> learning_from_file(const Game& game, const Role& role,
                                                     const std::string& who, std::uint64_t seed);

// Says on standard error what an opponent cannot do in this game, if there is something.
void print_caveat(const Call& call, const std::string& who, const Game& game);

// Any of these.
Result<std::unique_ptr<Opponent>> opponent_of(const Game& game, const Role& role,
                                              const std::string& who, std::uint64_t seed);

}  // namespace orchard::cli
