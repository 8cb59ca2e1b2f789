#include "picture/inferred/layout.hpp"

#include <algorithm>

#include "picture/inferred/glyphs.hpp"
#include "picture/inferred/layout_builder.hpp"

namespace orchard {

PictureLayout::PictureLayout(const GameCore& core) : sorts_(core.program().description()) {
  LayoutBuilder(core, *this).run();
}

namespace {

bool holds(const std::vector<TermId>& ids, TermId id) {
  return std::ranges::find(ids, id) != ids.end();
}

// The square at a row and a column of the layout.
std::optional<Square> square_at(const BoardLayout& board, std::size_t number, TermId row,
                                TermId column) {
  const auto at_row = board.row_index.find(row);
  const auto at_column = board.column_index.find(column);
  if (at_row == board.row_index.end() || at_column == board.column_index.end()) {
    return std::nullopt;
  }
  if (board.folded == 0) return Square{number, at_row->second, at_column->second};
  return Square{number, at_column->second / board.folded, at_column->second % board.folded};
}

// Whether the fluents name the row before the column.
bool rows_come_first(const BoardLayout& board) {
  const BoardSource& source = board.sources.front();
  return !source.row || *source.row < source.column;
}

TermId row_of(const rules::TermTable& terms, const BoardSource& source, TermId fluent) {
  return source.row ? part_at(terms, fluent, *source.row) : rules::no_term;
}

}  // namespace

Content content_of(const rules::TermTable& terms, const BoardSource& source, std::size_t number,
                   TermId fluent) {
  Content content{number, {}};
  for (const Path& path : source.contents) content.terms.push_back(part_at(terms, fluent, path));
  return content;
}

std::optional<PlacedContent> PictureLayout::place(const GameCore& core, TermId fluent) const {
  const auto& entry = core.terms()[fluent];
  for (std::size_t b = 0; b < boards_.size(); ++b) {
    const BoardLayout& board = boards_[b];
    for (std::size_t s = 0; s < board.sources.size(); ++s) {
      const BoardSource& source = board.sources[s];
      if (source.name != entry.symbol || source.arity != entry.arity) continue;
      if (source.owner && part_at(core.terms(), fluent, *source.owner) != board.owner) continue;
      const TermId column = part_at(core.terms(), fluent, source.column);
      const auto square = square_at(board, b, row_of(core.terms(), source, fluent), column);
      if (!square) return std::nullopt;
      PlacedContent placed{*square, content_of(core.terms(), source, s, fluent)};
      // A fluent of another shape than those that the layout was made from.
      if (holds(placed.content.terms, rules::no_term)) return std::nullopt;
      return placed;
    }
  }
  return std::nullopt;
}

bool PictureLayout::is_border(const GameCore& core, TermId fluent) const {
  const auto& entry = core.terms()[fluent];
  for (const BoardLayout& board : boards_) {
    if (!board.border) continue;
    const BoardSource& source = board.sources[board.border->source];
    if (source.name != entry.symbol || source.arity != entry.arity || !source.row) continue;
    if (!board.border_rows.contains(row_of(core.terms(), source, fluent)) &&
        !board.border_columns.contains(part_at(core.terms(), fluent, source.column))) {
      continue;
    }
    return content_of(core.terms(), source, board.border->source, fluent) == board.border;
  }
  return false;
}

std::optional<Square> PictureLayout::named_square(const GameCore& core, TermId move,
                                                  const Role& role) const {
  // Arguments as they are come first: of a single move it cannot be seen that (s z) counts.
  const TermId one[] = {move};
  for (const std::size_t deepest : {std::size_t{1}, deepest_part}) {
    const auto parts = common_parts(core.terms(), sorts_, rules::Sorts::Owner::move, one, deepest);
    if (const auto square = square_named_by(core, move, parts, role)) return square;
  }
  return std::nullopt;
}

std::optional<Square> PictureLayout::square_named_by(const GameCore& core, TermId move,
                                                     const std::vector<Part>& parts,
                                                     const Role& role) const {
  std::vector<TermId> names;
  for (const Part& part : parts) names.push_back(part_at(core.terms(), move, part.path));
  const TermId mover = core.terms().find(Term::constant(role.name()));
  const bool names_owner = std::ranges::any_of(
      boards_, [&](const BoardLayout& board) { return board.owner && holds(names, *board.owner); });
  for (std::size_t b = 0; b < boards_.size(); ++b) {
    const BoardLayout& board = boards_[b];
    // Where everybody has a board, a move that names nobody is one on the own.
    if (board.owner && (names_owner ? !holds(names, *board.owner) : board.owner != mover)) {
      continue;
    }
    const bool one_name = !board.sources.front().row;
    for (std::size_t last = parts.size(); last-- > (one_name ? 0u : 1u);) {
      TermId row = rules::no_term;
      TermId column = names[last];
      if (!one_name) {
        const auto first_sort = parts[last - 1].sort;
        const auto second_sort = parts[last].sort;
        const bool in_order = first_sort == board.row_sort && second_sort == board.column_sort;
        const bool swapped = second_sort == board.row_sort && first_sort == board.column_sort;
        if (!in_order && !swapped) continue;
        // Where rows and columns are of one sort, they come as in the fluents.
        const bool rows_first = in_order && (!swapped || rows_come_first(board));
        row = names[rows_first ? last - 1 : last];
        column = names[rows_first ? last : last - 1];
      } else if (parts[last].sort != board.column_sort) {
        continue;
      }
      if (const auto square = square_at(board, b, row, column)) return square;
    }
  }
  return std::nullopt;
}

Glyph PictureLayout::glyph(const GameCore& core, const BoardLayout& board,
                           const Content& content) const {
  if (const auto known = board.glyphs.find(content); known != board.glyphs.end()) {
    return known->second;
  }
  return choose_glyphs(core, board, {content}).begin()->second;
}

}  // namespace orchard
