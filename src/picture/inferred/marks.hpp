// Where legal moves are marked on the boards.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/picture.hpp"
#include "picture/inferred/layout.hpp"

namespace orchard {

// What a move is marked at: the square its arguments name, else the one square that playing it
// would change (every other role then needs to have no choice). Looking at changes costs one
// step of the game a move, so it is done for a bounded number of moves.
std::map<Square, std::vector<std::size_t>> mark_squares(const Game& game,
                                                        const PictureLayout& layout,
                                                        const Position& position,
                                                        const std::vector<NumberedMove>& moves);

// The squares on which something came to stand from one position to another; the cleared ones if
// there are none. None either if they are more than a few: then it was no move on a square.
std::vector<Square> changed_squares(const Game& game, const PictureLayout& layout,
                                    const Position& before, const Position& after);

}  // namespace orchard
