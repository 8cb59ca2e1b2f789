// Writes the manual into a folder while the project is built: write_manual FOLDER VERSION DATE
#include <filesystem>
#include <fstream>
#include <iostream>

#include "manual/manual.hpp"

int main(int count, char** arguments) {
  if (count != 4) {
    std::cerr << "write_manual FOLDER VERSION DATE\n";
    return 2;
  }
  for (const orchard::ManualFile& file : orchard::manual(arguments[2], arguments[3])) {
    const std::filesystem::path path = std::filesystem::path(arguments[1]) / file.path;
    std::filesystem::create_directories(path.parent_path());
    std::ofstream stream(path);
    stream << file.text;
    if (!stream.flush()) {
      std::cerr << "cannot write " << path << '\n';
      return 2;
    }
  }
}
