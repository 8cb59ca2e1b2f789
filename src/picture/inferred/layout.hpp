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
#include "rules/sorts.hpp"

namespace orchard {

// The fluents of one name that stand on a board.
struct BoardSource {
  rules::SymbolId name{};
  std::uint32_t arity = 0;
  std::optional<std::uint32_t> row;  // argument; none on a board of one row
  std::uint32_t column = 0;          // argument
  bool stands(std::uint32_t argument) const { return argument == column || argument == row; }
};

// What a square holds: the fluent's arguments that are no coordinates.
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
  std::optional<rules::Sorts::Sort> row_sort;
  std::optional<rules::Sorts::Sort> column_sort;
  std::vector<TermId> rows;     // from the top; one id that is no term if there is one row
  std::vector<TermId> columns;  // from the left
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

struct PlacedContent {
  Square square;
  Content content;
};

class PictureLayout {
 public:
  explicit PictureLayout(const GameCore& core);

  const std::vector<BoardLayout>& boards() const { return boards_; }

  // Where a fluent stands; none if it stands on no board.
  std::optional<PlacedContent> place(const GameCore& core, TermId fluent) const;
  // Whether a fluent only says that a helper square of a border is one.
  bool is_border(const GameCore& core, TermId fluent) const;
  // The square that the arguments of a move name, the last one if it names several.
  std::optional<Square> named_square(const GameCore& core, TermId move) const;
  // The glyph of a content, made up if it was never met while the layout was made.
  Glyph glyph(const GameCore& core, const BoardLayout& board, const Content& content) const;

 private:
  friend class LayoutBuilder;
  rules::Sorts sorts_;
  std::vector<BoardLayout> boards_;
};

}  // namespace orchard
