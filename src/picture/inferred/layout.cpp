#include "picture/inferred/layout.hpp"

#include "picture/inferred/glyphs.hpp"
#include "picture/inferred/layout_builder.hpp"

namespace orchard {

PictureLayout::PictureLayout(const GameCore& core) : sorts_(core.program().description()) {
  LayoutBuilder(core, *this).run();
}

std::optional<PlacedContent> PictureLayout::place(const GameCore& core, TermId fluent) const {
  const auto& entry = core.terms()[fluent];
  for (std::size_t b = 0; b < boards_.size(); ++b) {
    const BoardLayout& board = boards_[b];
    for (std::size_t s = 0; s < board.sources.size(); ++s) {
      const BoardSource& source = board.sources[s];
      if (source.name != entry.symbol || source.arity != entry.arity) continue;
      const auto row =
          board.row_index.find(source.row ? entry.arguments[*source.row] : rules::no_term);
      const auto column = board.column_index.find(entry.arguments[source.column]);
      if (row == board.row_index.end() || column == board.column_index.end()) return std::nullopt;
      PlacedContent result{{b, row->second, column->second}, {s, {}}};
      for (std::uint32_t a = 0; a < entry.arity; ++a) {
        if (!source.stands(a)) result.content.terms.push_back(entry.arguments[a]);
      }
      return result;
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
    if (!board.border_rows.contains(entry.arguments[*source.row]) &&
        !board.border_columns.contains(entry.arguments[source.column])) {
      continue;
    }
    Content content{board.border->source, {}};
    for (std::uint32_t a = 0; a < entry.arity; ++a) {
      if (!source.stands(a)) content.terms.push_back(entry.arguments[a]);
    }
    return content == board.border;
  }
  return false;
}

std::optional<Square> PictureLayout::named_square(const GameCore& core, TermId move) const {
  const auto& entry = core.terms()[move];
  const auto sort = [&](std::uint32_t argument) {
    return sorts_.sort(rules::Sorts::Owner::move, entry.symbol, entry.arity, argument);
  };
  for (std::size_t b = 0; b < boards_.size(); ++b) {
    const BoardLayout& board = boards_[b];
    const bool one_row = !board.sources.front().row;
    for (std::uint32_t last = entry.arity; last-- > (one_row ? 0u : 1u);) {
      std::optional<std::uint32_t> row;
      std::uint32_t column = last;
      if (!one_row) {
        const bool in_order = sort(last - 1) == board.row_sort && sort(last) == board.column_sort;
        const bool swapped = sort(last) == board.row_sort && sort(last - 1) == board.column_sort;
        if (!in_order && !swapped) continue;
        row = in_order ? last - 1 : last;
        column = in_order ? last : last - 1;
      } else if (sort(last) != board.column_sort) {
        continue;
      }
      const auto at_row = board.row_index.find(row ? entry.arguments[*row] : rules::no_term);
      const auto at_column = board.column_index.find(entry.arguments[column]);
      if (at_row != board.row_index.end() && at_column != board.column_index.end()) {
        return Square{b, at_row->second, at_column->second};
      }
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
