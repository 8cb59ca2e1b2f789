// Several games in one process, a thread for each: games_in_threads games/silo.gdl games/graft.gdl
#include <mutex>
#include <thread>

#include <iostream>
#include <orchard/orchard.hpp>

int main(int count, char** argv) {
  std::mutex output;
  {
    std::vector<std::jthread> threads;
    for (int i = 1; i < count; ++i) {
      threads.emplace_back([&output, path = argv[i]] {
        const auto game = orchard::Game::load(path);
        const auto played = game ? orchard::run_playouts(*game, {.games = 10'000})
                                 : orchard::Result<orchard::PlayoutStatistics>(game.diagnostics());
        const std::lock_guard lock(output);
        if (played) {
          std::cout << game->name() << ": " << played->plies << " plies in " << played->playouts
                    << " games\n";
        } else {
          std::cout << played.diagnostics().render();
        }
      });
    }
  }
}
