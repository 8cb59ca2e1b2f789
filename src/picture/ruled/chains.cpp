#include "picture/ruled/chains.hpp"

#include <algorithm>
#include <utility>

namespace orchard::picture {
namespace {

constexpr std::size_t cells_across = 12;  // cells beside each other: 74 characters
constexpr int gap = 2;                    // half rows between what stands one under another

struct Cell {
  int row = 0;
  int column = 0;
};

// The cells along the way of a chain: a row, the corner below its end, the next row backwards …
Cell cell_at(std::size_t number) {
  const std::size_t turn = number / (cells_across + 1);
  const auto within = static_cast<int>(number % (cells_across + 1));
  const int last = static_cast<int>(cells_across) - 1;
  const int row = 2 * static_cast<int>(turn);
  const bool backwards = turn % 2 == 1;
  if (within > last) return {row + 1, backwards ? 0 : last};
  return {row, backwards ? last - within : within};
}

class ChainLayout {
 public:
  ChainLayout(Board& board, std::map<std::string, std::size_t>& spots)
      : board_(board), spots_(spots) {}

  // Below what there is.
  void begin() {
    top_ = 0;
    for (const Spot& spot : board_.spots) top_ = std::max(top_, spot.raster_down + 2 + gap);
    next_ = 0;
  }
  std::size_t add_cell(std::string typed) {
    const Cell cell = cell_at(next_++);
    Spot spot;
    spot.column = std::move(typed);
    spot.raster_down = top_ + 2 * cell.row;
    spot.raster_half = 2 * cell.column;
    spot.x = cell.column + 0.5;
    spot.y = spot.raster_down / 2.0 + 0.5;
    board_.spots.push_back(std::move(spot));
    return board_.spots.size() - 1;
  }
  void name(std::size_t spot, const std::string& place) {
    board_.spots[spot].name = place;
    spots_.try_emplace(place, spot);
  }
  void add_end(const Term& chain, const char* which, const std::vector<Term>& asked_for) {
    const Term place = Term::function("end", {chain, Term::constant(which)});
    if (std::ranges::find(asked_for, place) == asked_for.end()) {
      ++next_;  // its cell stays free, so that the chain does not jump from ply to ply
      return;
    }
    name(add_cell(which), place.to_string());
  }
  void add_link(const ChainLink& link) {
    const std::string typed = spoken(link.order.to_string());
    const std::string place = Term::function("link", {link.chain, link.order}).to_string();
    const std::size_t first = add_cell(typed);
    board_.spots[first].groundless = true;
    name(first, place);
    if (link.piece.shape != Shape::pair) {
      board_.spots[first].pieces.push_back(link.piece);
      return;
    }
    const std::size_t second = add_cell(typed);
    board_.spots[second].name = place;
    board_.spots[second].groundless = true;
    board_.long_pieces.push_back({first, second, link.piece});
  }

 private:
  Board& board_;
  std::map<std::string, std::size_t>& spots_;
  int top_ = 0;           // half rows
  std::size_t next_ = 0;  // cell along the way
};

}  // namespace

void lay_out_chains(std::vector<ChainLink> links, const std::vector<Term>& asked_for, Board& board,
                    std::map<std::string, std::size_t>& spots) {
  std::ranges::stable_sort(links, [](const ChainLink& a, const ChainLink& b) {
    return std::pair(a.chain, a.order) < std::pair(b.chain, b.order);
  });
  ChainLayout layout(board, spots);
  for (std::size_t at = 0; at < links.size(); ++at) {
    const bool first = at == 0 || links[at - 1].chain != links[at].chain;
    const bool last = at + 1 == links.size() || links[at + 1].chain != links[at].chain;
    if (first) {
      layout.begin();
      layout.add_end(links[at].chain, "first", asked_for);
    }
    layout.add_link(links[at]);
    if (last) layout.add_end(links[at].chain, "last", asked_for);
  }
}

}  // namespace orchard::picture
