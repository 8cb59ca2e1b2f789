// Which fluents make a board, in which order its rows and columns run, and how contents look.
//
// Made once for a game: from the declared fluents (`base`) if the rules declare them, else from
// the start and sampled lines of play. Immutable.
#pragma once

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "game/core.hpp"
#include "picture/inferred/parts.hpp"

namespace orchard {

// The fluents of one name that stand on a board.
struct BoardSource {
  rules::SymbolId name{};
  std::uint32_t arity = 0;
  std::optional<Path> row;  // none on a board whose places have one name each
  Path column;
  std::optional<Path> owner;   // where it says whose board it is, if each has one of its own
  std::vector<Path> contents;  // the other parts
};

// What a square holds: the parts of the fluent that are no coordinates.
struct Content {
  std::size_t source = 0;  // of the board
  std::vector<TermId> terms;
  friend auto operator<=>(const Content&, const Content&) = default;
};

struct Glyph {
  std::string text;                 // at most a few characters
  std::string label;                // what it stands for
  std::optional<std::size_t> role;  // whose it is, if the content names a role
};

struct BoardLayout {
  std::vector<BoardSource> sources;
  std::optional<TermId> owner;  // whose board it is, where everybody has one
  std::string title;            // where there are several
  std::optional<rules::Sorts::Sort> row_sort;
  std::optional<rules::Sorts::Sort> column_sort;
  std::vector<TermId> rows;      // from the top; one id that is no term if places have one name
  std::vector<TermId> columns;   // from the left
  bool numbers_upwards = false;  // rows, as on boards labelled c3
  std::size_t folded = 0;        // places with one name: so many stand in a row; 0: all of them
  absl::flat_hash_map<TermId, std::size_t> row_index;
  absl::flat_hash_map<TermId, std::size_t> column_index;
  // Helper squares round the board: what alone they ever hold, and where. They are not shown.
  std::optional<Content> border;
  absl::flat_hash_set<TermId> border_rows;
  absl::flat_hash_set<TermId> border_columns;
  std::optional<Content> bare;  // the quiet content that most squares hold at the start
  bool always_filled = false;   // every square holds something at the start
  std::map<Content, Glyph> glyphs;
  std::size_t glyph_width = 1;
};

// A square of a board.
struct Square {
  std::size_t board = 0;
  std::size_t row = 0;
  std::size_t column = 0;
  friend auto operator<=>(const Square&, const Square&) = default;
};

// How many squares a board has from the left.
inline std::size_t squares_across(const BoardLayout& board) {
  return board.folded > 0 ? board.folded : board.columns.size();
}
inline std::size_t squares_down(const BoardLayout& board) {
  return board.folded > 0 ? board.columns.size() / board.folded : board.rows.size();
}

struct PlacedContent {
  Square square;
  Content content;
};

// What a fluent of a source puts on its square.
Content content_of(const rules::TermTable& terms, const BoardSource& source, std::size_t number,
                   TermId fluent);

class PictureLayout {
 public:
  explicit PictureLayout(const GameCore& core);

  const std::vector<BoardLayout>& boards() const { return boards_; }

  // Where a fluent stands; none if it stands on no board.
  std::optional<PlacedContent> place(const GameCore& core, TermId fluent) const;
  // Whether a fluent only says that a helper square of a border is one.
  bool is_border(const GameCore& core, TermId fluent) const;
  // The square that the parts of a role's move name, the last one if it names several.
  std::optional<Square> named_square(const GameCore& core, TermId move, const Role& role) const;
  // The glyph of a content, made up if it was never met while the layout was made.
  Glyph glyph(const GameCore& core, const BoardLayout& board, const Content& content) const;

 private:
  std::optional<Square> square_named_by(const GameCore& core, TermId move,
                                        const std::vector<Part>& parts, const Role& role) const;
  friend class LayoutBuilder;
  rules::Sorts sorts_;
  std::vector<BoardLayout> boards_;
};

}  // namespace orchard
