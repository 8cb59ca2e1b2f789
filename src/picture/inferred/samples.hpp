// Which fluents and moves a game has, by name: as declared, and as met in sampled lines of play.
#pragma once

#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "game/core.hpp"
#include "picture/inferred/parts.hpp"

namespace orchard {

struct FluentName {
  rules::SymbolId name{};
  std::uint32_t arity = 0;
  std::vector<TermId> declared;               // fluents of this name that can be
  std::vector<std::vector<TermId>> together;  // fluents of this name in one position
  bool at_first = false;                      // whether together.front() is of the start
  std::vector<Part> parts;
};

struct MoveName {
  rules::SymbolId name{};
  std::uint32_t arity = 0;
  std::vector<TermId> met;
  std::vector<Part> parts;
};

class Samples {
 public:
  // Plays a few random games from the start; bounded, a fraction of a second for large rules.
  Samples(const GameCore& core, const rules::Sorts& sorts);

  // In the order of first meeting.
  const std::vector<FluentName>& fluents() const { return fluents_; }
  const std::vector<MoveName>& moves() const { return moves_; }
  // The fluents of each position met; the start comes first.
  const std::vector<std::vector<TermId>>& positions() const { return positions_; }
  const FluentName& fluent(rules::SymbolId name, std::uint32_t arity) const {
    return fluents_[fluent_index_.at({name, arity})];
  }
  // The different values of a part, in no order.
  std::vector<TermId> values(const FluentName& of, const Part& part) const;

 private:
  using Key = std::pair<rules::SymbolId, std::uint32_t>;
  void play();
  void add_position(std::span<const TermId> fluents);
  void add_moves(std::span<const TermId> moves);
  FluentName& fluent_of(TermId fluent);

  const GameCore& core_;
  std::vector<FluentName> fluents_;
  std::map<Key, std::size_t> fluent_index_;
  std::vector<MoveName> moves_;
  std::vector<std::vector<TermId>> positions_;
  std::map<Key, std::size_t> move_index_;
};

}  // namespace orchard
