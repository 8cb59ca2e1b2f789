// Infers the layout of a game's boards. Inner part of PictureLayout.
#pragma once

#include "picture/inferred/layout.hpp"

namespace orchard {

class LayoutBuilder {
 public:
  LayoutBuilder(const GameCore& core, PictureLayout& layout) : core_(core), layout_(layout) {}
  void run();

 private:
  struct FluentName {
    rules::SymbolId name{};
    std::uint32_t arity = 0;
    std::vector<TermId> declared;               // fluents of this name that can be
    std::vector<std::vector<TermId>> together;  // fluents of this name in one position
  };
  struct Chain {                    // names in the order of a relation such as (above 3 2)
    rules::Sorts::Sort first_sort;  // of the relation's two arguments
    rules::Sorts::Sort second_sort;
    std::vector<TermId> order;

    bool is_of(rules::Sorts::Sort sort) const { return sort == first_sort || sort == second_sort; }
  };

  void find_chains();
  std::optional<std::vector<TermId>> chain_of(const logic::Table& table) const;
  void collect_fluents();
  void add_sample(std::span<const TermId> fluents);
  FluentName& fluent_name(TermId fluent);
  std::optional<std::vector<TermId>> ordered_values(const FluentName& fluents,
                                                    std::uint32_t argument) const;
  void add_grids();
  void add_tracks();
  bool is_grid_like(const FluentName& fluents, std::uint32_t row, std::uint32_t column) const;
  bool may_be_squares(const FluentName& fluents, std::uint32_t row, std::uint32_t column) const;
  void add_source(const FluentName& fluents, std::optional<std::uint32_t> row,
                  std::uint32_t column);
  void finish(BoardLayout& board, std::size_t number);
  void hide_border(BoardLayout& board);
  void find_bare(BoardLayout& board, std::size_t number);
  std::optional<rules::Sorts::Sort> sort_of(const FluentName& fluents,
                                            std::uint32_t argument) const;
  std::vector<TermId> in_order(std::vector<TermId> values,
                               std::optional<rules::Sorts::Sort> sort) const;

  const GameCore& core_;
  PictureLayout& layout_;
  std::vector<Chain> chains_;
  std::vector<FluentName> fluents_;  // in the order of first meeting
  std::map<std::pair<rules::SymbolId, std::uint32_t>, std::size_t> by_name_;
};

}  // namespace orchard
