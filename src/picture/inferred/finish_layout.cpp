// The boards that were recognised, made ready: how far their sides go, in which order they run,
// which squares are helpers of the rules, how places with one name stand, and what is blank.
#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <set>

#include "picture/inferred/glyphs.hpp"
#include "picture/inferred/layout_builder.hpp"

namespace orchard {

using rules::Sorts;

namespace {

std::size_t distance(std::size_t a, std::size_t b) {
  return std::max(a, b) - std::min(a, b);
}

}  // namespace

std::vector<TermId> LayoutBuilder::fluents_of(const BoardLayout& board,
                                              const BoardSource& source) const {
  std::vector<TermId> result = samples_.fluent(source.name, source.arity).declared;
  if (source.owner) {
    std::erase_if(result, [&](TermId fluent) {
      return part_at(core_.terms(), fluent, *source.owner) != board.owner;
    });
  }
  return result;
}

// Facts such as (cell 3 4) tell of squares on which nothing has stood yet.
void LayoutBuilder::add_facts_of_squares(const BoardLayout& board, std::vector<TermId>& rows,
                                         std::vector<TermId>& columns) const {
  const logic::Program& program = core_.program();
  const auto& relations = program.description().relations();
  const std::set<TermId> known_rows(rows.begin(), rows.end());
  const std::set<TermId> known_columns(columns.begin(), columns.end());
  for (std::size_t r = 0; r < relations.size(); ++r) {
    const rules::Relation& relation = relations[r];
    const auto id = rules::RelationId{static_cast<std::uint32_t>(r)};
    if (relation.arity != 2 || relation.keyword != rules::Keyword::none ||
        program.tables()[r].phase != rules::Phase::constant || orders_.is_chain(id)) {
      continue;
    }
    const auto sort = [&](std::uint32_t argument) {
      return layout_.sorts_.sort(Sorts::Owner::relation, relation.name, 2, argument);
    };
    const bool fits = sort(0) == board.row_sort && sort(1) == board.column_sort;
    if (!fits || board.row_sort == board.column_sort) continue;
    const logic::Table& table = program.prepared_table(program.table(id));
    std::set<TermId> all_rows;
    std::set<TermId> all_columns;
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      all_rows.insert(table.row(row)[0]);
      all_columns.insert(table.row(row)[1]);
    }
    if (!std::ranges::includes(all_rows, known_rows) ||
        !std::ranges::includes(all_columns, known_columns) ||
        std::max(all_rows.size(), all_columns.size()) > longest_side) {
      continue;
    }
    rows.assign(all_rows.begin(), all_rows.end());
    columns.assign(all_columns.begin(), all_columns.end());
  }
}

void LayoutBuilder::find_sides(BoardLayout& board) const {
  std::set<TermId> rows;
  std::set<TermId> columns;
  for (const BoardSource& source : board.sources) {
    // Boards of several owners are alike.
    for (const TermId fluent : samples_.fluent(source.name, source.arity).declared) {
      if (source.row) rows.insert(part_at(core_.terms(), fluent, *source.row));
      columns.insert(part_at(core_.terms(), fluent, source.column));
    }
  }
  board.rows.assign(rows.begin(), rows.end());
  board.columns.assign(columns.begin(), columns.end());
  if (board.row_sort && board.column_sort) add_facts_of_squares(board, board.rows, board.columns);
  board.rows = orders_.in_order(std::move(board.rows), board.row_sort);
  board.columns = orders_.in_order(std::move(board.columns), board.column_sort);
  if (board.rows.empty()) board.rows.push_back(rules::no_term);
  if (board.numbers_upwards && core_.program().compare(board.rows.front(), board.rows.back()) < 0) {
    std::ranges::reverse(board.rows);
  }
}

// Places with one name stand in rows if all lines and neighbours of the rules are then straight or
// slanting steps to the next square, and none of them goes round an edge.
void LayoutBuilder::fold(BoardLayout& board) const {
  const std::size_t places = board.columns.size();
  if (!board.column_sort) return;
  const auto tables = tables_over(*board.column_sort, 2);
  for (std::size_t width = 2; width * 2 <= places; ++width) {
    if (places % width != 0) continue;
    bool fits = !tables.empty();
    bool along = false;
    bool down = false;
    for (const logic::Table* table : tables) {
      for (std::uint32_t r = 0; r < table->rows() && fits; ++r) {
        for (std::uint32_t a = 1; a < table->arity() && fits; ++a) {
          const auto from = board.column_index.find(table->row(r)[a - 1]);
          const auto to = board.column_index.find(table->row(r)[a]);
          if (from == board.column_index.end() || to == board.column_index.end()) continue;
          const std::size_t across = distance(from->second % width, to->second % width);
          const std::size_t downwards = distance(from->second / width, to->second / width);
          fits = across <= 1 && downwards <= 1;
          along = along || (across == 1 && downwards == 0);
          down = down || (across == 0 && downwards == 1);
        }
      }
    }
    if (fits && along && down) {
      board.folded = width;
      return;
    }
  }
}

// Rules often put a ring of squares round a board that nothing can enter, so that every square has
// neighbours. Outer rows and columns that hold one content, which stands nowhere but on squares
// that never change in sampled play, are such helpers.
void LayoutBuilder::hide_border(BoardLayout& board) const {
  std::map<std::pair<TermId, TermId>, std::set<Content>> held;  // by row and column
  for (std::size_t s = 0; s < board.sources.size(); ++s) {
    const BoardSource& source = board.sources[s];
    if (!source.row) return;
    for (const auto& position : samples_.fluent(source.name, source.arity).together) {
      for (const TermId fluent : position) {
        if (source.owner && part_at(core_.terms(), fluent, *source.owner) != board.owner) continue;
        held[{part_at(core_.terms(), fluent, *source.row),
              part_at(core_.terms(), fluent, source.column)}]
            .insert(content_of(core_.terms(), source, s, fluent));
      }
    }
  }
  std::set<Content> changing;  // what stands on a square that changes
  for (const auto& [place, contents] : held) {
    if (contents.size() > 1) changing.insert(contents.begin(), contents.end());
  }
  const auto is_helper = [&](TermId row, TermId column) {
    const auto at = held.find({row, column});
    if (at == held.end() || at->second.size() != 1) return false;
    const Content& content = *at->second.begin();
    if (content.terms.empty() || changing.contains(content)) return false;
    if (!board.border) board.border = content;
    return content == board.border;
  };
  const auto peel = [&](std::vector<TermId>& lines, const std::vector<TermId>& across, bool rows,
                        absl::flat_hash_set<TermId>& hidden) {
    for (const bool last : {false, true}) {
      while (lines.size() > 2) {
        const TermId line = last ? lines.back() : lines.front();
        const bool helper = std::ranges::all_of(across, [&](TermId other) {
          return rows ? is_helper(line, other) : is_helper(other, line);
        });
        if (!helper) break;
        hidden.insert(line);
        lines.erase(last ? lines.end() - 1 : lines.begin());
      }
    }
  };
  if (changing.empty()) return;  // nothing is known of what changes
  const std::vector<TermId> all_rows = board.rows;
  const std::vector<TermId> all_columns = board.columns;
  peel(board.rows, all_columns, true, board.border_rows);
  peel(board.columns, all_rows, false, board.border_columns);
  // One side alone may as well be a part of the board that nobody has reached.
  if (board.border_rows.size() < 2 || board.border_columns.size() < 2) {
    board.rows = all_rows;
    board.columns = all_columns;
    board.border_rows.clear();
    board.border_columns.clear();
    board.border.reset();
  }
}

void LayoutBuilder::name_boards() {
  if (boards_.size() < 2) return;
  for (BoardLayout& board : boards_) {
    if (board.owner) {
      board.title = core_.terms().text(*board.owner);
      continue;
    }
    for (const BoardSource& source : board.sources) {
      board.title += (board.title.empty() ? "" : ", ") + core_.terms().name(source.name);
    }
  }
}

void LayoutBuilder::find_bare(BoardLayout& board, std::size_t number) const {
  std::map<Content, std::size_t> counts;
  std::map<Square, int> filled;
  for (const TermId fluent : core_.program().initial()) {
    const auto placed = layout_.place(core_, fluent);
    if (!placed || placed->square.board != number) continue;
    ++counts[placed->content];
    ++filled[placed->square];
  }
  const std::size_t squares = board.rows.size() * board.columns.size();
  board.always_filled = filled.size() == squares;
  // A fluent that says no more than (free 3) is a blank square if nothing else stands there.
  const bool alone = board.sources.size() > 1 &&
                     std::ranges::all_of(filled, [](const auto& at) { return at.second == 1; });
  std::size_t most = 0;
  for (const auto& [content, count] : counts) {
    if (count < most || (content.terms.empty() && !alone)) continue;
    board.bare = count > most && count * 2 >= squares ? std::optional(content) : std::nullopt;
    most = count;
  }
}

void LayoutBuilder::choose_signs(BoardLayout& board) const {
  std::set<Content> shown;
  for (std::size_t s = 0; s < board.sources.size(); ++s) {
    for (const TermId fluent : fluents_of(board, board.sources[s])) {
      Content content = content_of(core_.terms(), board.sources[s], s, fluent);
      if (content != board.bare && content != board.border) shown.insert(std::move(content));
    }
  }
  board.glyphs = choose_glyphs(core_, board, {shown.begin(), shown.end()});
  for (const auto& [content, glyph] : board.glyphs) {
    board.glyph_width = std::max(board.glyph_width, character_count(glyph.text));
  }
}

}  // namespace orchard
