// Every position that can follow from one, with what follows from each of its joint moves.
//
// Positions are numbered in the order of their finding, breadth first: a position's depth, the
// length of the shortest line to it, never falls with its number, and numbers do not depend on
// anything but the game. A position of the last depth may not have been looked at yet if a budget
// ended the exploration: those below `expanded()` have been.
//
// Positions that the rules do not tell apart are a class, if a symmetry is given, and only one of
// each is kept and looked at. All still have numbers: those of a class lie side by side, the kept
// one first, `stride()` of them, fewer if some renamings make the same position of it (the others
// are numbers of nothing: see `is_position`). Without a symmetry every position is a class.
//
// One owner while it explores; then any number of readers. Memory a class: the bits of a position,
// about 20 bytes, 2 a role, and 4 a joint move (5 with a symmetry). The game must outlive it.
#pragma once

#include <absl/container/flat_hash_map.h>

#include <array>
#include <bit>
#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "explore/space/block_expander.hpp"
#include "explore/space/row_index.hpp"
#include "orchard/budget.hpp"
#include "orchard/result.hpp"

namespace orchard::explore {

class StateSpace {
 public:
  using Kind = explore::Kind;
  using Number = std::uint32_t;
  using Row = std::span<const std::uint64_t>;  // a bit for each fluent of the ground program

  explicit StateSpace(const LaneGame& game, SymmetryGroup symmetry = {});
  StateSpace(const StateSpace&) = delete;

  // Explores from a position until the budget ends; called again with a larger one, without a
  // checkpoint so far, it goes on. The symmetry must leave the position as it is. The budget counts
  // positions found, kept or not. What is found does not depend on the number of threads, nor on
  // whether the checkpoint was resumed. Fails if that cannot be read or written.
  Result<Ending> explore(Row from, const Budget& budget, unsigned threads = 1);

  // Whether an exploration is saved in a folder, of this game or of another.
  static bool is_saved(const std::string& folder);

  const LaneGame& game() const { return game_; }
  std::size_t roles() const { return roles_; }
  std::size_t words() const { return words_; }  // of a row
  // Numbers are below this.
  Number size() const { return static_cast<Number>(rows_.size() / words_) << shift_; }
  Number expanded() const { return static_cast<Number>(kinds_.size()) << shift_; }
  bool complete() const { return expanded() == size(); }
  std::uint64_t positions() const { return positions_; }
  std::uint64_t positions(Number first, Number end) const;  // from the first of a class to another
  std::uint64_t bytes() const;

  // Classes, and the first number of each.
  Number classes() const { return size() >> shift_; }
  Number expanded_classes() const { return expanded() >> shift_; }
  Number class_of(Number position) const { return position >> shift_; }
  Number first_of(Number number) const { return number << shift_; }
  Number stride() const { return Number{1} << shift_; }
  std::size_t class_size(Number number) const {
    return shift_ == 0 ? 1 : folds_[fold_of_[number]].size;
  }
  bool is_position(Number position) const {
    return shift_ == 0 || (members(class_of(position)) >> element(position) & 1) != 0;
  }
  const SymmetryGroup& symmetry() const { return symmetry_; }
  // The element of it that makes a position of the one kept.
  SymmetryGroup::Element element(Number position) const {
    return static_cast<SymmetryGroup::Element>(position & (stride() - 1));
  }

  // Of a position that is kept; std::logic_error for another one.
  Row row(Number position) const;
  // Of any; one that is not kept is made in `made`.
  Row row(Number position, std::vector<std::uint64_t>& made) const {
    if (element(position) == 0) return kept(class_of(position));
    made.resize(words_);
    symmetry_.rename(kept(class_of(position)), element(position), made.data());
    return made;
  }
  // Every position, up to 512 at a time, ascending, in whole classes.
  using BlockVisit = std::function<void(Row rows, std::span<const Number> positions)>;
  void each_block(const BlockVisit& visit) const { each_block(0, classes(), visit); }
  void each_block(Number first_class, Number end_class, const BlockVisit& visit) const;
  std::optional<Number> find(Row row) const;
  // From now on nothing that is so deep is expanded, and exploring ends there (`Ending::depth`).
  void end_at_depth(std::uint64_t depth) { deepest_ = depth; }
  // The first position of each depth; the last one or two may be incomplete.
  const std::vector<Number>& depths() const { return depths_; }
  std::uint32_t depth(Number position) const;

  // What follows from a position; made as it is asked for.
  class Steps {
   public:
    class Iterator {
     public:
      using value_type = Number;
      using difference_type = std::ptrdiff_t;
      Iterator() = default;
      Iterator(const Steps* steps, std::uint32_t at) : steps_(steps), at_(at) {}
      Number operator*() const { return (*steps_)[at_]; }
      Iterator& operator++() { return ++at_, *this; }
      Iterator operator++(int) { return {steps_, at_++}; }
      friend bool operator==(Iterator a, Iterator b) { return a.at_ == b.at_; }
      friend difference_type operator-(Iterator a, Iterator b) {
        return difference_type{a.at_} - difference_type{b.at_};
      }

     private:
      const Steps* steps_ = nullptr;
      std::uint32_t at_ = 0;
    };
    Steps(const StateSpace& space, std::uint64_t first, std::uint32_t count,
          SymmetryGroup::Element by)
        : space_(space), first_(first), count_(count), by_(by) {}
    std::size_t size() const { return count_; }
    Number operator[](std::size_t step) const { return space_.after(first_ + step, by_); }
    Iterator begin() const { return {this, 0}; }
    Iterator end() const { return {this, count_}; }

   private:
    const StateSpace& space_;
    std::uint64_t first_;
    std::uint32_t count_;
    SymmetryGroup::Element by_;
  };

  // Of expanded positions:
  Kind kind(Number position) const { return kinds_[class_of(position)]; }
  std::uint32_t choices(Number position, std::size_t role) const {
    return choices_[class_of(position) * roles_ + role];
  }
  // What follows, for each joint move in the order of the position kept of its class, the first
  // role's choice changing fastest; nothing where the game does not go on.
  Steps steps(Number position) const {
    const std::uint64_t first = first_step_[class_of(position)];
    const std::uint64_t end = first_step_[class_of(position) + 1];
    return {*this, first, static_cast<std::uint32_t>(end - first), element(position)};
  }
  // The same by class alone.
  std::span<const Number> class_steps(Number number) const {
    return std::span(steps_).subspan(first_step_[number],
                                     first_step_[number + 1] - first_step_[number]);
  }
  // Everything that was looked at, as it is kept: by class, so by position without a symmetry.
  std::span<const Kind> kinds() const { return kinds_; }
  std::span<const std::uint16_t> all_choices() const { return choices_; }
  std::span<const std::uint64_t> first_steps() const { return first_step_; }
  std::span<const Number> all_steps() const { return steps_; }
  std::span<const std::uint16_t> all_outcomes() const { return outcome_of_; }
  // Steps have numbers too, those of a position behind one another; there are gaps between them.
  std::uint64_t first_step(Number position) const {
    const std::uint64_t first = first_step_[class_of(position)];
    return (first << shift_) + element(position) * (first_step_[class_of(position) + 1] - first);
  }
  std::uint64_t step_count() const { return std::uint64_t{steps_.size()} << shift_; }

  // What is derived for the roles where play does not go on: the numbers of goal values by role.
  using Outcome = std::vector<std::vector<std::uint32_t>>;
  const std::vector<Outcome>& outcomes() const { return outcomes_; }
  std::uint16_t outcome(Number position) const { return outcome_of_[class_of(position)]; }
  static constexpr std::uint16_t no_outcome = 0xFFFF;  // play goes on

  // The positions of a shortest line from the first one. O(steps of the depths before it).
  std::vector<Number> line_to(Number position) const;
  // Positions of classes that follow one another, from the first one on.
  std::vector<Number> line_through(std::span<const Number> classes) const;
  // The same of a line whose last class is that of ply `repeats_from`, gone round until the last
  // position is one that was there before: that of the ply that is left in `repeats_from`.
  std::vector<Number> round(std::vector<Number> classes, std::size_t& repeats_from) const;

 private:
  using Element = SymmetryGroup::Element;
  // Which renamings of a kept position make the same of it: for each element the least that does
  // what it does, and a bit for each of those.
  struct Fold {
    std::uint16_t stabilizer = 1;
    std::uint16_t members = 1;
    std::uint8_t size = 1;  // of the class
    std::array<Element, SymmetryGroup::most> least{};
  };

  Row kept(Number number) const { return Row(rows_).subspan(number * words_, words_); }
  std::uint16_t members(Number number) const { return folds_[fold_of_[number]].members; }
  Number after(std::uint64_t step, Element by) const {
    const Number next = steps_[step];
    return shift_ == 0 ? next : member(next, symmetry_.times(by, step_elements_[step]));
  }
  Number member(Number number, Element element) const {
    return (number << shift_) + folds_[fold_of_[number]].least[element];
  }
  std::uint8_t fold(std::uint16_t stabilizer);
  // A class, by the row that is kept of it and its hash.
  std::optional<Number> known(Row row, std::uint32_t hash) const;
  Number add(Row row, std::uint32_t hash, bool is_fixed_by_several);
  std::uint64_t most_steps(const Budget& budget) const;
  void make_room(const ExpandedBlock& block);
  Result<Ending> explore_depths(Row from, const Budget& budget, unsigned threads);
  std::string state(Row from) const;
  Diagnostics save(Row from, const std::string& folder) const;
  Result<bool> load(Row from, const std::string& folder);
  void add_outcome(Outcome outcome);
  void add_block(ExpandedBlock& block);

  const LaneGame& game_;
  SymmetryGroup symmetry_;
  unsigned shift_;  // from classes to numbers
  std::size_t roles_;
  std::size_t words_;
  std::uint64_t positions_ = 0;
  std::vector<std::uint64_t> rows_;
  RowIndex known_;  // classes
  std::vector<Number> depths_;
  std::optional<std::uint64_t> deepest_;
  std::vector<Kind> kinds_;
  std::vector<std::uint16_t> choices_;
  std::vector<std::uint64_t> first_step_{0};
  std::vector<Number> steps_;           // classes
  std::vector<Element> step_elements_;  // what makes what follows of the position kept of those
  std::vector<std::uint8_t> fold_of_;   // by class; empty without a symmetry
  std::vector<Fold> folds_;
  std::vector<std::uint16_t> outcome_of_;
  std::vector<Outcome> outcomes_;
  absl::flat_hash_map<Outcome, std::uint16_t> outcome_numbers_;
  bool next_depth_is_due_ = false;  // it begins at the end of what was found
  bool too_wide_ = false;  // a position has more moves, or there are more outcomes, than is kept
};

}  // namespace orchard::explore
