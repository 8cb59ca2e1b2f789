// A random game as a strip of pictures: pictures_of_a_line games/silo.gdl > silo.svg
#include <iostream>
#include <orchard/orchard.hpp>

int main(int, char** argv) {
  const auto game = orchard::Game::load(argv[1]);
  if (!game) {
    std::cerr << game.diagnostics().render();
    return 2;
  }
  orchard::WalkOptions options;
  options.plies = 8;
  std::vector<orchard::PictureFrame> frames;
  const auto walked = orchard::random_walk(*game, options, [&](const orchard::WalkStep& step) {
    orchard::PictureFrame frame{step.position};
    frame.title = "ply " + std::to_string(step.ply);
    frames.push_back(std::move(frame));
    return true;
  });
  if (!walked) {
    std::cerr << walked.diagnostics().render();
    return 2;
  }
  std::cout << orchard::Picture(*game).svg(frames);
}
