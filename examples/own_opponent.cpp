// An opponent of one's own in a series: own_opponent games/espalier.gdl
//
// It hems the others in: of its moves it takes one after which they have the fewest replies.
#include <iostream>
#include <orchard/orchard.hpp>

namespace {

class HemmingIn : public orchard::Opponent {
 public:
  std::string name() const override { return "hemming in"; }

  orchard::Move choose(const orchard::Situation& at) override {
    orchard::Move best = at.legal.front();
    std::size_t fewest = static_cast<std::size_t>(-1);
    for (const orchard::Move& move : at.legal) {
      const auto joint = at.game.joint_move(at.position, at.role, move);
      if (!joint) continue;  // the others have a choice now
      const auto next = at.game.next(at.position, *joint);
      std::size_t replies = 0;
      for (const orchard::Role& other : at.game.roles()) {
        if (other != at.role) replies += at.game.legal(*next, other).size();
      }
      if (replies >= fewest) continue;
      fewest = replies;
      best = move;
    }
    return best;
  }
};

}  // namespace

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::SeriesOptions options;
  options.games = 100;
  options.players = {
      {"hemming in", "", [](std::uint64_t) { return std::make_unique<HemmingIn>(); }},
      {"random", "random"}};
  const auto result = orchard::run_series(*game, options);
  if (!result) {
    std::cerr << result.diagnostics().render();
    return 2;
  }
  for (std::size_t i = 0; i < options.players.size(); ++i) {
    const orchard::SeriesTally& tally = result->by_player[i];
    std::cout << options.players[i].name << ": " << tally.wins << " won, " << tally.draws
              << " drawn, " << tally.losses << " lost\n";
  }
}
