// A game derived from its rules: who plays, what is legal, what follows, when it ends.
//
//   auto game = orchard::Game::load("games/espalier.gdl").value();
//   auto position = game.initial();
//   while (!game.terminal(position)) {
//     orchard::JointMove joint;
//     for (const auto& role : game.roles()) joint.add(game.legal(position, role).front());
//     position = game.next(position, joint).value();
//   }
//   for (const auto& role : game.roles()) std::cout << role << " " << *game.goal(position, role);
//
// A position is worked out once, when it is made (by `initial`, `next` or `position`), so what can
// fail fails there, with diagnostics; reading it afterwards never fails and never needs a move.
//
// Ownership: Game, Position, Move and Role are handles and values; each keeps alive what it needs,
// in any order of destruction. Threads: everything here is immutable; any number of threads may
// use the same objects at once. There is no process-wide state: any number of games may live side
// by side. Positions and moves belong to the game they came from; a position, or a role, of another
// game is a mistake of the program that calls, and throws std::logic_error.
#pragma once

#include <compare>
#include <cstdint>
#include <functional>
#include <iosfwd>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/result.hpp"
#include "orchard/term.hpp"

namespace orchard {

class GameCore;  // inner; holds the rules and their evaluators
class PositionState;

// A player of the game. Roles are numbered from 0 in the order of their facts in the rules.
// Roles come from a Game; they are ordered as it lists them.
class Role {
 public:
  // In the order of the roles, from 0.
  std::size_t index() const { return index_; }
  // The name of the role in the rules.
  const std::string& name() const { return *name_; }
  // The role that the language calls `random`: chance, uniform over its legal moves.
  bool is_chance() const { return *name_ == "random"; }
  // True if both have the same name and the same place among the roles.
  friend bool operator==(const Role& a, const Role& b) {
    return a.index_ == b.index_ && *a.name_ == *b.name_;
  }
  // Orders roles by their place among the roles, then by name.
  friend std::strong_ordering operator<=>(const Role& a, const Role& b) {
    const auto order = a.index_ <=> b.index_;
    return order != 0 ? order : a.name_->compare(*b.name_) <=> 0;
  }
  // A hash that is stable within one process only.
  std::size_t hash() const { return index_; }
  // Writes the name of the role.
  friend std::ostream& operator<<(std::ostream& stream, const Role& role);

 private:
  friend class GameAccess;
  Role(std::size_t index, std::string name)
      : index_(index), name_(std::make_shared<const std::string>(std::move(name))) {}
  std::size_t index_;
  std::shared_ptr<const std::string> name_;
};

// A move of a game, by its term; moves are ordered as their terms are. Comparing and hashing O(1)
// for moves of one game, else O(size of the term).
class Move {
 public:
  // The move as the rules write it.
  Term term() const;
  // The text of that term, such as "(tie 1 2)".
  std::string to_string() const { return term().to_string(); }
  // True if both are the same move of one game.
  friend bool operator==(const Move& a, const Move& b) {
    return a.id_ == b.id_ && a.core_ == b.core_;
  }
  // Orders moves as their terms are ordered.
  friend std::strong_ordering operator<=>(const Move& a, const Move& b);
  // A hash that is stable within one process only.
  std::size_t hash() const { return std::hash<std::uint32_t>()(id_); }
  // Writes the text of the move.
  friend std::ostream& operator<<(std::ostream& stream, const Move& move);

 private:
  friend class GameAccess;
  Move(std::shared_ptr<const GameCore> core, std::uint32_t id) : core_(std::move(core)), id_(id) {}
  std::shared_ptr<const GameCore> core_;
  std::uint32_t id_;
};

// One move for each role, in the order of the roles.
class JointMove {
 public:
  JointMove() = default;
  // Made of one move for each role.
  explicit JointMove(std::vector<Move> moves) : moves_(std::move(moves)) {}
  // Adds the move of the next role.
  void add(Move move) { moves_.push_back(std::move(move)); }
  // The number of moves, which is the number of roles.
  std::size_t size() const { return moves_.size(); }
  // The move of the role with this index.
  const Move& operator[](std::size_t role) const { return moves_[role]; }
  // The move of this role; throws std::out_of_range for a role of another game.
  const Move& operator[](const Role& role) const { return moves_.at(role.index()); }
  // The move of the first role.
  auto begin() const { return moves_.begin(); }
  // The end of the moves, which are in the order of the roles.
  auto end() const { return moves_.end(); }
  std::string to_string() const;  // "((place 1 2) wait)"
  // True if every role makes the same move in both.
  friend bool operator==(const JointMove&, const JointMove&) = default;
  // Orders joint moves role by role.
  friend std::strong_ordering operator<=>(const JointMove&, const JointMove&) = default;
  // A hash that is stable within one process only.
  std::size_t hash() const;
  // Writes the moves in parentheses, in the order of the roles.
  friend std::ostream& operator<<(std::ostream& stream, const JointMove& joint);

 private:
  std::vector<Move> moves_;
};

// A set of fluents. Equal if of the same game and with the same fluents. Copying costs one
// reference count; comparing O(fluents) at worst; hashing O(1).
class Position {
 public:
  std::vector<Term> fluents() const;  // in the order of Term
  // True if the fluent holds in this position.
  bool holds(const Term& fluent) const;
  // The number of fluents that hold.
  std::size_t size() const;
  std::string to_string() const;  // "(position (cell 1 1 bare) …)", which reads back
  std::size_t hash() const;       // good within one process only; for elsewhere there is `key`
  // 32 hexadecimal digits that name the position under its rules: the same wherever and whenever
  // the same rules (Game::digest) are loaded, so that it can be a key in a database. Two positions
  // have the same key with a probability of 2^-128 (XXH3, 128 bits, of digest and fluents).
  // O(size of the position).
  std::string key() const;
  // True if the same fluents hold in both.
  friend bool operator==(const Position& a, const Position& b);
  // Writes the fluents that hold, as `to_string` does.
  friend std::ostream& operator<<(std::ostream& stream, const Position& position);

 private:
  friend class GameAccess;
  explicit Position(std::shared_ptr<const PositionState> state) : state_(std::move(state)) {}
  std::shared_ptr<const PositionState> state_;
};

// Bounds on what rules may cost. Reaching one is an error that names the rule, never a crash.
struct LoadOptions {
  // The largest file that is read, in bytes.
  std::size_t file_bytes = 16u << 20;
  // The deepest nesting of lists that is read.
  std::size_t nesting = 10'000;
  // The most different names that are read.
  std::size_t symbols = 1'000'000;
  std::size_t forms = 1'000'000;             // that the directives make
  std::uint64_t instances = 5'000'000;       // derived in one position
  std::uint64_t join_steps = 2'000'000'000;  // in one position
  // Nesting of the terms that the rules build, at most. If not set, 64 in a circuit, which foresees
  // all that can be, and 1024 in a single position: a clock in nested terms is as deep as play is
  // long.
  std::optional<std::uint32_t> term_depth{};
  // What the circuit, and the rules without variables that it is made of, may take in bytes, about.
  // If not set, half of the machine's memory. With 0 there is no circuit: the reference evaluator
  // answers what it can.
  std::optional<std::uint64_t> circuit_bytes{};
  // What instantiating the rules and building the network may take, in seconds. What is made of it
  // later, such as the program of random play, is not counted.
  double circuit_seconds = 60;
  // Asked for an end, reading the rules fails with `interrupted`; so does the making of the circuit
  // later, and the game has none then, for good.
  std::stop_token stop{};
  // In place of the numbers that the description gives its sizes: (#let rows 4).
  std::map<std::string, std::int64_t> sizes{};
};

// A game: its rules, and all that follows from them.
class Game {
 public:
  // Reads, checks and prepares a description. Fails with every error found.
  static Result<Game> load(const std::string& path, const LoadOptions& options = {});
  // The same from a text; `name` is what diagnostics call it.
  static Result<Game> from_text(std::string rules, std::string name = "rules",
                                const LoadOptions& options = {});

  // The file name of the description without its folders, or the name given to from_text.
  std::string name() const;
  // A digest of the rules that comments and layout do not change: 32 hexadecimal digits.
  std::string digest() const;

  // In the order of their facts.
  const std::vector<Role>& roles() const;
  // The role of a name, if there is one.
  std::optional<Role> role(std::string_view name) const;
  // What is legal but looks like a slip (undefined relations, missing parts).
  const Diagnostics& findings() const;
  // Matters of style; worked out by the call. O(size of the rules).
  Diagnostics hints() const;
  // Whether roles see percepts only, not each other's moves (the rules use `sees`).
  bool has_hidden_information() const;

  // The position in which play starts.
  const Position& initial() const { return initial_; }
  // A position from its fluents. Fails with `unknown-fluent` if no rule makes one of them,
  // `too-large` if the rules cost too much there.
  Result<Position> position(const std::vector<Term>& fluents) const;

  // True if play is over in this position.
  bool terminal(const Position& position) const;
  // What the rules derive, at an end too; in the order of Term; empty if there is none.
  std::vector<Move> legal(const Position& position, const Role& role) const;
  // The role's value, if exactly one integer is derived.
  std::optional<std::int64_t> goal(const Position& position, const Role& role) const;
  // All values derived for the role, whatever they are.
  std::vector<Term> goals(const Position& position, const Role& role) const;

  // The position after one legal move a role. Fails with `illegal-move` or `missing-move` (naming
  // role, move and what is legal), `game-over` at an end, `too-large`.
  Result<Position> next(const Position& position, const JointMove& joint) const;
  // What the role perceives on entering the next position; empty without `sees`.
  Result<std::vector<Term>> percepts(const Position& position, const JointMove& joint,
                                     const Role& role) const;

  // A move of this game by its term; whether it is legal is seen when it is played.
  Move move(const Term& term) const;
  // The joint move in which a role makes its move and every other role its only legal one. Fails
  // with `missing-move` if one of those has a choice, or none.
  Result<JointMove> joint_move(const Position& position, const Role& role, const Move& move) const;

  // The roles with a legal move that is no waiting move; if there are none, all roles; at an end
  // nobody. A *waiting move* is its role's only legal move whenever it is legal, and sometimes
  // while another role has a choice, at the start and on sampled lines of play (fixed seed); the
  // sampling is done once, at the first call.
  std::vector<Role> to_move(const Position& position) const;
  // Whether it is a waiting move of the role, as below `to_move`.
  bool is_waiting(const Role& role, const Move& move) const;

 private:
  friend class GameAccess;
  Game(std::shared_ptr<const GameCore> core, Position initial)
      : core_(std::move(core)), initial_(std::move(initial)) {}
  std::shared_ptr<const GameCore> core_;
  Position initial_;
};

// A position of a file, with its name.
struct NamedPosition {
  std::string name;  // empty if the form has none
  // The position itself.
  Position position;
};

// Reads the drawing of a board, with the fluents that stand beside it: Picture::read_drawn.
using DrawingReader =
    std::function<Result<Position>(const std::string& drawing, const std::vector<Term>& fluents)>;

// The positions of a text of forms (position FLUENT…), (position "name" FLUENT…), and, with a
// reader, (position (drawn "…") FLUENT…).
Result<std::vector<NamedPosition>> read_positions(const Game& game, const std::string& path,
                                                  const DrawingReader& reader = {});
// One of them: the only one, or the one of that name.
Result<Position> read_position(const Game& game, const std::string& path,
                               const std::string& name = {}, const DrawingReader& reader = {});
// Reads positions from a text; `name` stands for the file in diagnostics.
Result<std::vector<NamedPosition>> positions_from_text(const Game& game, std::string text,
                                                       const DrawingReader& reader = {});

}  // namespace orchard

template <>
struct std::hash<orchard::Position> {
  // Calls the member function hash().
  std::size_t operator()(const orchard::Position& position) const { return position.hash(); }
};
// Hashes as the member of that name.
template <>
struct std::hash<orchard::Role> {
  // Calls the member function hash().
  std::size_t operator()(const orchard::Role& role) const { return role.hash(); }
};
// Hashes as the member of that name.
template <>
struct std::hash<orchard::Move> {
  // Calls the member function hash().
  std::size_t operator()(const orchard::Move& move) const { return move.hash(); }
};
// Hashes as the member of that name.
template <>
struct std::hash<orchard::JointMove> {
  // Calls the member function hash().
  std::size_t operator()(const orchard::JointMove& joint) const { return joint.hash(); }
};
