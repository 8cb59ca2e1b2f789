// An opponent in the language of the rules: what it prefers, and what positions are worth to it.
//
//   ; keeps the corners, and likes many branches
//   (<= (prefer ?who (tie ?row ?column) 10)
//       (role ?who) (corner ?row ?column))
//   (<= (worth ?who 80)
//       (role ?who) (true (square 1 1 ?who)))
//
// The rules stand behind those of the game and may use all it says but `does`. (prefer ROLE MOVE
// VALUE): of its legal moves the role makes one of the highest value, at random among equals; the
// highest value counts where several are derived, and 0 where none is. (worth ROLE VALUE), 0 to
// 100: what a position is worth in which nobody has won; look-ahead and tree search take it for
// their leaves; the highest counts, and 50 where none is derived. Values are whole numbers.
//
// Rules may be loaded from any thread; an opponent belongs to one thread at a time.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "orchard/opponent.hpp"

namespace orchard {

namespace opponents {
class Preferences;
}

// The rules of an opponent, read for one game.
class OpponentRules {
 public:
  // Fails with what is wrong in the text, with `bad-preference` where it is no preference, and with
  // `too-many-instances` if the game has no circuit.
  static Result<OpponentRules> load(const Game& game, const std::string& path);
  // Reads rules from a text; `name` stands for the file in diagnostics.
  static Result<OpponentRules> from_text(const Game& game, std::string text,
                                         std::string name = "an opponent's rules");

  bool prefers() const;                 // there are rules for `prefer`
  bool judges() const;                  // … for `worth`
  const Diagnostics& findings() const;  // what looks like a slip

 private:
  friend Result<std::unique_ptr<Opponent>> make_opponent(std::string_view, std::uint64_t,
                                                         const OpponentRules&);
  explicit OpponentRules(std::shared_ptr<const opponents::Preferences> inner)
      : inner_(std::move(inner)) {}
  std::shared_ptr<const opponents::Preferences> inner_;  // constant, shared by opponents
};

// `rules`: plays what it prefers; without rules for that it looks two plies ahead by what positions
// are worth. `lookahead…` and `playouts…`, as above, judge leaves by what they are worth. Of the
// game that the rules were read for. Fails with `unknown-opponent`, and with `bad-preference` where
// the rules lack what is needed.
Result<std::unique_ptr<Opponent>> make_opponent(std::string_view who, std::uint64_t seed,
                                                const OpponentRules& rules);

}  // namespace orchard
