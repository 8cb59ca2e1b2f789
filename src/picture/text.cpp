#include <fmt/core.h>

#include <algorithm>

#include "orchard/picture.hpp"
#include "picture/glyphs.hpp"
#include "picture/marks.hpp"

namespace orchard {
namespace {

constexpr std::size_t least_cell = 5;        // characters, so that boards keep their size in play
constexpr std::size_t most_ruled_rows = 12;  // boards with more rows have no lines between them
constexpr std::size_t full_legend = 6;       // glyphs; of more, only those in the position

struct Frame {
  std::string_view horizontal, vertical;
  std::string_view top[3], middle[3], bottom[3];  // left, inner, right
};
constexpr Frame unicode_frame = {"─", "│", {"┌", "┬", "┐"}, {"├", "┼", "┤"}, {"└", "┴", "┘"}};
constexpr Frame ascii_frame = {"-", "|", {"+", "+", "+"}, {"+", "+", "+"}, {"+", "+", "+"}};

// Tones for what belongs to the roles, in their order; apart in lightness as well as in hue.
constexpr std::string_view role_tones[] = {"1;38;5;75", "1;38;5;214", "1;38;5;115", "1;38;5;176"};
constexpr std::string_view quiet_tone = "38;5;242";
constexpr std::string_view mark_tone = "38;5;150";

std::string repeat(std::string_view text, std::size_t count) {
  std::string result;
  for (std::size_t i = 0; i < count; ++i) result += text;
  return result;
}

// Text with its tone, so that padding counts characters and not escapes.
struct Toned {
  std::string text;
  std::string_view tone;
};

class BoardText {
 public:
  BoardText(const GameCore& core, const PictureLayout& layout, std::size_t number,
            const TextStyle& style)
      : core_(core),
        layout_(layout),
        board_(layout.boards()[number]),
        number_(number),
        style_(style),
        frame_(style.unicode ? unicode_frame : ascii_frame) {}

  void add(const PlacedContent& placed) {
    contents_[placed.square].push_back(placed.content);
    present_.insert_or_assign(placed.content, true);
  }
  void mark(const Square& square, const std::vector<std::size_t>& numbers) {
    const std::string_view left = style_.unicode ? "‹" : "<";
    const std::string_view right = style_.unicode ? "›" : ">";
    marks_[square] =
        fmt::format("{}{}{}{}", left, numbers.front(), numbers.size() > 1 ? "+" : "", right);
  }

  std::string draw();
  std::string legend() const;

 private:
  std::vector<Toned> cell(const Square& square) const;
  std::string toned(std::string_view text, std::string_view tone) const {
    if (!style_.colour || tone.empty()) return std::string(text);
    return fmt::format("\x1b[{}m{}\x1b[0m", tone, text);
  }
  std::string centred(const std::vector<Toned>& parts) const;
  std::string rule(const std::string_view (&corners)[3]) const;
  std::string label(TermId id) const { return core_.terms().text(id); }
  std::string_view tone_of(const Glyph& glyph) const {
    return glyph.role ? role_tones[*glyph.role % std::size(role_tones)] : std::string_view{};
  }

  const GameCore& core_;
  const PictureLayout& layout_;
  const BoardLayout& board_;
  std::size_t number_;
  const TextStyle& style_;
  const Frame& frame_;
  std::map<Square, std::vector<Content>> contents_;
  std::map<Content, bool> present_;
  std::map<Square, std::string> marks_;
  std::size_t width_ = least_cell;  // of a cell
  std::size_t label_width_ = 0;     // of the row labels
};

std::vector<Toned> BoardText::cell(const Square& square) const {
  std::vector<Toned> parts;
  const auto held = contents_.find(square);
  if (held == contents_.end()) {
    if (board_.always_filled) parts.push_back({"?", {}});
  } else {
    for (const Content& content : held->second) {
      // A bare square stays blank, unless the same fluent says that something else is there too.
      const auto of_same_source =
          std::ranges::count(held->second, content.source, &Content::source);
      if (content == board_.bare && of_same_source == 1) continue;
      const Glyph glyph = layout_.glyph(core_, board_, content);
      parts.push_back({glyph.text, tone_of(glyph)});
    }
  }
  if (const auto mark = marks_.find(square); mark != marks_.end()) {
    parts.push_back({mark->second, mark_tone});
  }
  return parts;
}

std::string BoardText::centred(const std::vector<Toned>& parts) const {
  std::size_t used = 0;
  std::string text;
  for (const Toned& part : parts) {
    used += character_count(part.text);
    text += toned(part.text, part.tone);
  }
  const std::size_t room = width_ > used ? width_ - used : 0;
  return std::string(room / 2, ' ') + text + std::string(room - room / 2, ' ');
}

std::string BoardText::rule(const std::string_view (&corners)[3]) const {
  std::string text(corners[0]);
  for (std::size_t column = 0; column < board_.columns.size(); ++column) {
    text += repeat(frame_.horizontal, width_);
    text += corners[column + 1 == board_.columns.size() ? 2 : 1];
  }
  return std::string(label_width_ + 2, ' ') + toned(text, quiet_tone) + "\n";
}

std::string BoardText::draw() {
  for (std::size_t r = 0; r < board_.rows.size(); ++r) {
    if (board_.rows[r] != rules::no_term) {
      label_width_ = std::max(label_width_, character_count(label(board_.rows[r])));
    }
    for (std::size_t c = 0; c < board_.columns.size(); ++c) {
      std::size_t used = 0;
      for (const Toned& part : cell({number_, r, c})) used += character_count(part.text);
      width_ = std::max(width_, used + (used > 4 ? 1 : 0));
    }
  }
  for (const TermId id : board_.columns) width_ = std::max(width_, character_count(label(id)));
  width_ = std::max(width_, board_.glyph_width + 2);

  std::string text(label_width_ + 3, ' ');
  for (const TermId id : board_.columns) text += centred({{label(id), {}}}) + " ";
  text.erase(text.find_last_not_of(' ') + 1);
  text += "\n" + rule(frame_.top);
  for (std::size_t r = 0; r < board_.rows.size(); ++r) {
    const std::string name = board_.rows[r] == rules::no_term ? "" : label(board_.rows[r]);
    text += fmt::format(" {}{} ", std::string(label_width_ - character_count(name), ' '), name);
    text += toned(frame_.vertical, quiet_tone);
    for (std::size_t c = 0; c < board_.columns.size(); ++c) {
      text += centred(cell({number_, r, c})) + toned(frame_.vertical, quiet_tone);
    }
    text += "\n";
    const bool last = r + 1 == board_.rows.size();
    if (last) text += rule(frame_.bottom);
    if (!last && board_.rows.size() <= most_ruled_rows) text += rule(frame_.middle);
  }
  return text;
}

std::string BoardText::legend() const {
  std::vector<std::pair<std::string, std::size_t>> entries;  // with their widths, without tones
  const auto add = [&](const std::string& entry, std::size_t width) {
    if (std::ranges::find(entries, std::pair(entry, width)) == entries.end()) {
      entries.emplace_back(entry, width);
    }
  };
  for (const auto& [content, glyph] : board_.glyphs) {
    const bool listed = board_.glyphs.size() <= full_legend || present_.contains(content);
    if (listed && glyph.text != glyph.label) {
      add(toned(glyph.text, tone_of(glyph)) + " " + glyph.label,
          character_count(glyph.text) + 1 + character_count(glyph.label));
    }
  }
  // What only a faulty position shows: a bare square that holds something else too, and a square
  // of which nothing is true.
  bool bare_spelled_out = false;
  for (const auto& [square, held] : contents_) {
    bare_spelled_out = bare_spelled_out || (board_.bare && held.size() > 1 &&
                                            std::ranges::find(held, *board_.bare) != held.end());
  }
  if (bare_spelled_out) {
    const Glyph glyph = layout_.glyph(core_, board_, *board_.bare);
    add(glyph.text + " " + glyph.label, character_count(glyph.text + " " + glyph.label));
  }
  if (board_.always_filled && contents_.size() < board_.rows.size() * board_.columns.size()) {
    const std::string entry = style_.partial ? "? not known" : "? nothing";
    add(entry, entry.size());
  }
  if (board_.bare) {
    std::string label;
    for (const TermId id : board_.bare->terms) label += " " + core_.terms().text(id);
    add("blank:" + label, character_count("blank:" + label));
  }
  std::string text;
  std::size_t used = 0;  // of the line
  for (const auto& [entry, width] : entries) {
    if (used > 0 && used + 3 + width > static_cast<std::size_t>(style_.width)) {
      text += "\n";
      used = 0;
    }
    text += "   " + entry;
    used += 3 + width;
  }
  return text.empty() ? text : text + "\n";
}

// Items one after another, broken before the width is passed.
std::string flowing(std::string_view first, const std::vector<std::string>& items, int width) {
  std::string text;
  std::string line(first);
  for (const std::string& item : items) {
    if (static_cast<int>(line.size() + item.size() + 1) > width && line.size() > first.size()) {
      text += line + "\n";
      line = std::string(first.size(), ' ');
    }
    line += (line.size() > first.size() ? "  " : "") + item;
  }
  return text + line + "\n";
}

}  // namespace

Picture::Picture(const Game& game)
    : game_(game), layout_(std::make_shared<PictureLayout>(*GameAccess::core(game))) {}

bool Picture::has_board() const {
  return !layout_->boards().empty();
}

std::string Picture::text(const Position& position, const TextStyle& style,
                          const std::vector<NumberedMove>& moves) const {
  const GameCore& core = *GameAccess::core(game_);
  std::vector<BoardText> boards;
  for (std::size_t b = 0; b < layout_->boards().size(); ++b) {
    boards.emplace_back(core, *layout_, b, style);
  }
  std::vector<TermId> others;
  for (const TermId fluent : GameAccess::state(position).fluents) {
    if (const auto placed = layout_->place(core, fluent)) {
      boards[placed->square.board].add(*placed);
    } else {
      others.push_back(fluent);
    }
  }
  for (const auto& [square, numbers] : mark_squares(game_, *layout_, position, moves)) {
    boards[square.board].mark(square, numbers);
  }
  std::string text;
  for (BoardText& board : boards) {
    if (!text.empty()) text += '\n';
    text += board.draw() + board.legend();
  }
  std::ranges::sort(others, [&](TermId a, TermId b) { return core.program().compare(a, b) < 0; });
  std::vector<std::string> items;
  for (const TermId fluent : others) items.push_back(core.terms().text(fluent));
  if (!items.empty()) text += flowing(boards.empty() ? "   " : "   also: ", items, style.width);
  if (boards.empty() && items.empty())
    text += style.partial ? "   nothing is known\n" : "   nothing holds\n";
  return text;
}

}  // namespace orchard
