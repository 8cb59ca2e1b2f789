// A series that tells how far it is, and can be ended: series_with_progress games/silo.gdl
#include <thread>

#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  std::stop_source stop;
  orchard::SeriesOptions options;
  options.games = 1'000'000;
  options.threads = 2;
  options.players = {{"careful", "careful"}, {"random", "random"}};
  options.budget.stop = stop.get_token();
  options.budget.progress = [](const orchard::Progress& at) {
    std::cerr << at.done << " matches\r";
  };
  std::jthread impatient([&stop] {
    std::this_thread::sleep_for(std::chrono::milliseconds(500));
    stop.request_stop();
  });
  const auto result = orchard::run_series(*game, options);
  if (!result) {
    std::cerr << result.diagnostics().render();
    return 2;
  }
  std::cout << orchard::name_of(result->ending) << " after " << result->games << " matches; "
            << result->by_player[0].wins << " won by careful\n";
}
