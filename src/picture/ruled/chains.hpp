// Lines of pieces laid end to end, such as tiles: where each lies is worked out here, so that
// drawing rules need no more than their order.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/term.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

struct ChainLink {
  Term chain;
  Term order;
  Piece piece;  // a pair takes two cells
};

// Adds the chains below what the board has, one under another in the order of their names. A chain
// runs to the right, turns down at the edge, and back: each piece touches the one before it. A
// piece is named (link CHAIN ORDER), the free cells before and behind the chain (end CHAIN first)
// and (end CHAIN last), those only if `asked_for` has them. Names go to `spots`.
void lay_out_chains(std::vector<ChainLink> links, const std::vector<Term>& asked_for, Board& board,
                    std::map<std::string, std::size_t>& spots);

}  // namespace orchard::picture
