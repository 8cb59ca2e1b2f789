// Infers the layout of a game's boards. Inner part of PictureLayout.
#pragma once

#include "picture/inferred/layout.hpp"
#include "picture/inferred/orders.hpp"
#include "picture/inferred/samples.hpp"

namespace orchard {

class LayoutBuilder {
 public:
  using Sort = rules::Sorts::Sort;

  LayoutBuilder(const GameCore& core, PictureLayout& layout)
      : core_(core),
        layout_(layout),
        orders_(core, layout.sorts_),
        samples_(core, layout.sorts_),
        boards_(layout.boards_) {}
  void run();

 private:
  static constexpr std::size_t longest_side = 200;  // a longer board is a list, not a picture

  std::vector<Part> ordered_parts(const FluentName& fluents) const;
  void add_grids();
  void add_pieces();
  bool named_by_a_move(const Part& first, const Part& second) const;
  void add_tracks();
  bool is_on_a_board(const FluentName& fluents) const;
  bool are_one_place(const FluentName& fluents, const Part& row, const Part& column) const;
  bool is_grid_like(const FluentName& fluents, const Part& row, const Part& column) const;
  bool may_be_squares(const FluentName& fluents, const Part& row, const Part& column) const;
  bool counts_along(const FluentName& fluents, const Part& row, const Part& column) const;
  bool once_each(const std::vector<const FluentName*>& names) const;
  std::vector<const FluentName*> fillers(Sort sort) const;
  bool has_lines(Sort sort) const;
  std::vector<const logic::Table*> tables_over(Sort sort, std::uint32_t least_arity) const;
  const Part* part_of_sort(const FluentName& fluents, Sort sort) const;
  BoardLayout& add_source(const FluentName& fluents, const Part* row, const Part& column);
  void give_owners();
  std::optional<Path> owner_in(const BoardLayout& board) const;
  void find_sides(BoardLayout& board) const;
  void add_facts_of_squares(const BoardLayout& board, std::vector<TermId>& rows,
                            std::vector<TermId>& columns) const;
  void fold(BoardLayout& board) const;
  void hide_border(BoardLayout& board) const;
  void name_boards();
  void find_bare(BoardLayout& board, std::size_t number) const;
  void choose_signs(BoardLayout& board) const;
  std::vector<TermId> fluents_of(const BoardLayout& board, const BoardSource& source) const;

  const GameCore& core_;
  PictureLayout& layout_;
  Orders orders_;
  Samples samples_;
  std::vector<BoardLayout>& boards_;
};

}  // namespace orchard
