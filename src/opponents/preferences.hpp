// What the rules of an opponent say, on the circuit: a signal for each value of a move, and for
// each value of a position.
//
// Preferences are constant and shared; a reader of them belongs to one thread.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "explore/sampling/goal_shares.hpp"
#include "explore/space/watch.hpp"
#include "game/core.hpp"
#include "orchard/opponent_rules.hpp"

namespace orchard::opponents {

class Preferences {
 public:
  static Result<std::shared_ptr<const Preferences>> make(const Game& game,
                                                         const syntax::Source& source);

  const Game& game() const { return game_; }          // that they are of
  const Game& extended() const { return extended_; }  // with the rules
  const LaneGame& lanes() const { return *GameAccess::core(extended_)->lanes(); }
  const Diagnostics& findings() const { return findings_; }  // what looks like a slip in them
  bool prefers() const { return prefers_; }
  bool judges() const { return judges_; }
  // A position of the game as one of the extended game.
  Position in_extended(const Position& position) const;
  // The number in the extended game of a move of the game; none if it is never legal.
  std::optional<std::uint32_t> number_of(std::size_t role, const Move& move) const;

  struct Preference {
    std::size_t role = 0;
    std::uint32_t move = 0;  // number in the extended game
    std::int64_t value = 0;
  };
  struct Worth {
    std::size_t role = 0;
    float share = 0;  // 0 to 1
  };

 private:
  friend class PreferenceReader;
  friend class WorthReader;
  Preferences(const Game& game, Game extended) : game_(game), extended_(std::move(extended)) {}
  Diagnostics read();
  void number_moves();
  template <class Visit>
  bool each(std::string_view name, std::uint32_t arity, Diagnostics& faults, Visit visit) const;

  Game game_;
  Game extended_;
  Diagnostics findings_;
  bool prefers_ = false;
  bool judges_ = false;
  std::vector<std::map<Term, std::uint32_t>> numbers_;  // by role
  std::vector<Preference> moves_;                       // and where they hold
  std::vector<circuit::Signal> move_signals_;
  std::vector<Worth> worths_;
  std::vector<circuit::Signal> worth_signals_;
};

// The value of moves in one position.
class PreferenceReader {
 public:
  explicit PreferenceReader(std::shared_ptr<const Preferences> preferences);
  // Of a role's legal moves, in their order.
  std::vector<double> values(std::span<const std::uint64_t> row, std::size_t role,
                             std::span<const std::uint32_t> legal);

 private:
  std::shared_ptr<const Preferences> preferences_;
  explore::Watch watch_;
};

// What many positions are worth.
class WorthReader {
 public:
  explicit WorthReader(std::shared_ptr<const Preferences> preferences);
  // Rows behind one another, any number of them; shares of all roles, position by position.
  void read(std::span<const std::uint64_t> rows, std::size_t count, float* shares);

 private:
  std::shared_ptr<const Preferences> preferences_;
  explore::Watch watch_;
};

}  // namespace orchard::opponents
