#include "picture/inferred/scene_of_layout.hpp"

#include <algorithm>

#include "picture/inferred/marks.hpp"
#include "picture/inferred/parts.hpp"
#include "picture/scene/role_colours.hpp"

namespace orchard::picture {
namespace {

constexpr std::size_t most_ruled_rows = 12;

std::string text_of(const GameCore& core, TermId id) {
  return id == rules::no_term ? std::string() : core.terms().text(id);
}

// What rows or columns are called: terms that count by nesting, by the number.
std::vector<std::string> labels_of(const GameCore& core, const std::vector<TermId>& ids) {
  std::vector<std::string> labels;
  for (const TermId id : ids) labels.push_back(text_of(core, id));
  if (std::ranges::find(ids, rules::no_term) != ids.end()) return labels;
  const auto times = nesting(core.terms(), ids);
  if (times && times->size() > 1) {
    std::ranges::transform(*times, labels.begin(), [](std::size_t n) { return std::to_string(n); });
  }
  return labels;
}

Piece piece_of(const Glyph& glyph) {
  Piece piece;
  piece.letters = glyph.text;
  piece.meaning = glyph.label;
  if (glyph.role) piece.tone = tone_of_role(*glyph.role);
  return piece;
}

// The squares of a board, bare. Places of one name that stand in rows have it written on them.
Board bare_board(const GameCore& core, const BoardLayout& layout) {
  Board board;
  board.title = spoken(layout.title);
  const std::size_t down = squares_down(layout);
  const std::size_t across = squares_across(layout);
  board.ruled = down <= most_ruled_rows;
  board.glyph_width = layout.glyph_width;
  const bool folded = layout.folded > 0;
  const std::vector<std::string> rows = labels_of(core, layout.rows);
  const std::vector<std::string> columns = labels_of(core, layout.columns);
  for (std::size_t r = 0; r < down; ++r) {
    const std::string row = folded ? "" : rows[r];
    if (!row.empty()) {
      board.rows.push_back({row, static_cast<double>(r) + 0.5, 2 * static_cast<int>(r)});
    }
    for (std::size_t c = 0; c < across; ++c) {
      Spot spot;
      spot.row = row;
      spot.column = columns[folded ? r * across + c : c];
      if (folded) spot.label = spot.column;
      spot.name = row.empty() ? spot.column : "(at " + row + " " + spot.column + ")";
      spot.x = static_cast<double>(c) + 0.5;
      spot.y = static_cast<double>(r) + 0.5;
      spot.raster_down = 2 * static_cast<int>(r);
      spot.raster_half = 2 * static_cast<int>(c);
      board.spots.push_back(std::move(spot));
    }
  }
  for (std::size_t c = 0; c < across && !folded; ++c) {
    board.columns.push_back({columns[c], static_cast<double>(c) + 0.5, 2 * static_cast<int>(c)});
  }
  if (layout.bare) {
    for (const TermId id : layout.bare->terms) {
      board.bare += (board.bare.empty() ? "" : " ") + core.terms().text(id);
    }
    if (board.bare.empty()) {
      board.bare = core.terms().name(layout.sources[layout.bare->source].name);
    }
  }
  for (const auto& [content, glyph] : layout.glyphs) board.legend.push_back(piece_of(glyph));
  return board;
}

class Filler {
 public:
  Filler(const GameCore& core, const PictureLayout& layout, Scene& scene)
      : core_(core), layout_(layout), scene_(scene) {
    for (const BoardLayout& board : layout.boards()) {
      scene_.boards.push_back(bare_board(core, board));
      contents_.emplace_back(scene_.boards.back().spots.size());
      unsure_.emplace_back(scene_.boards.back().spots.size());
    }
  }

  Spot& spot(const Square& square) { return scene_.boards[square.board].spots[number(square)]; }
  void add(const PlacedContent& placed) {
    contents_[placed.square.board][number(placed.square)].push_back(placed.content);
  }
  void add_unsure(const Square& square) { unsure_[square.board][number(square)] = true; }
  void finish(bool partial);

 private:
  std::size_t number(const Square& square) const {
    return square.row * squares_across(layout_.boards()[square.board]) + square.column;
  }

  const GameCore& core_;
  const PictureLayout& layout_;
  Scene& scene_;
  std::vector<std::vector<std::vector<Content>>> contents_;  // by board and spot
  std::vector<std::vector<bool>> unsure_;                    // the same
};

void Filler::finish(bool partial) {
  for (std::size_t b = 0; b < contents_.size(); ++b) {
    const BoardLayout& layout = layout_.boards()[b];
    Board& board = scene_.boards[b];
    bool bare_spelled_out = false;
    for (std::size_t s = 0; s < board.spots.size(); ++s) {
      const std::vector<Content>& held = contents_[b][s];
      if (held.empty() && (layout.always_filled || unsure_[b][s])) {
        board.spots[s].unknown = true;
        board.unknown = partial ? "not known" : "nothing";
      }
      for (const Content& content : held) {
        // A bare square stays blank, unless the same fluent says that something else is there too.
        if (content == layout.bare) {
          const bool alone = content.terms.empty()
                                 ? held.size() == 1
                                 : std::ranges::count(held, content.source, &Content::source) == 1;
          if (alone) continue;
          bare_spelled_out = true;
        }
        board.spots[s].pieces.push_back(piece_of(layout_.glyph(core_, layout, content)));
      }
    }
    if (bare_spelled_out) {
      board.legend.push_back(piece_of(layout_.glyph(core_, layout, *layout.bare)));
    }
  }
}

}  // namespace

Scene scene_of_layout(const Game& game, const PictureLayout& layout, const PictureFrame& frame) {
  const GameCore& core = *GameAccess::core(game);
  Scene scene;
  scene.roles = game.roles().size();
  scene.role_colours = role_colours(game);
  Filler filler(core, layout, scene);
  std::vector<TermId> others;
  // Numbers of terms tell when they were first met, which is nothing to see in a picture.
  std::vector<TermId> fluents = GameAccess::state(frame.position).fluents();
  std::ranges::sort(fluents, [&](TermId a, TermId b) { return core.program().compare(a, b) < 0; });
  for (const TermId fluent : fluents) {
    if (const auto placed = layout.place(core, fluent)) {
      filler.add(*placed);
    } else if (!layout.is_border(core, fluent)) {
      others.push_back(fluent);
    }
  }
  for (const Term& fluent : frame.unsure) {
    const TermId id = core.terms().find(fluent);
    const auto placed = id == rules::no_term ? std::nullopt : layout.place(core, id);
    if (placed) filler.add_unsure(placed->square);
  }
  filler.finish(frame.partial);
  for (const auto& [square, numbers] : mark_squares(game, layout, frame.position, frame.moves)) {
    filler.spot(square).choices = numbers;
  }
  for (const auto& [role, move] : frame.last_moves) {
    const TermId id = core.terms().find(move);
    if (id == rules::no_term) continue;
    if (const auto square = layout.named_square(core, id, role)) {
      filler.spot(*square).marked = true;
    } else if (frame.before) {
      for (const Square& changed : changed_squares(game, layout, *frame.before, frame.position)) {
        filler.spot(changed).marked = true;
      }
    }
  }
  for (const Term& fluent : frame.deciding) {
    const TermId id = core.terms().find(fluent);
    const auto placed = id == rules::no_term ? std::nullopt : layout.place(core, id);
    if (placed && placed->content != layout.boards()[placed->square.board].bare) {
      filler.spot(placed->square).deciding = true;
    }
  }
  std::ranges::sort(others, [&](TermId a, TermId b) { return core.program().compare(a, b) < 0; });
  for (const TermId fluent : others) scene.listed.push_back(core.terms().text(fluent));
  if (scene.boards.empty() && scene.listed.empty()) {
    scene.listed.push_back(frame.partial ? "nothing is known" : "nothing holds");
  }
  return scene;
}

}  // namespace orchard::picture
