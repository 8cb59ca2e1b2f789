// A browser without a window, driven by the WebDriver standard of the W3C (chromium and its driver,
// Debian packages chromium and chromium-driver).
//
// One page at a time; belongs to one thread. Everything that fails is a std::runtime_error with
// what the driver says.
#pragma once

#include <memory>
#include <string>

#include "base/json.hpp"

namespace orchard::testing {

class Browser {
 public:
  // Whether the driver and the browser are installed.
  static bool is_installed();

  Browser();
  ~Browser();
  Browser(const Browser&) = delete;

  void open(const std::string& address);
  // Runs a script in the page, with `arguments`, and gives what it returns.
  Json run(const std::string& script, const Json& arguments = Json::array());
  // Runs a script again and again until it returns something true; false after half a minute.
  bool wait_for(const std::string& script, const Json& arguments = Json::array());
  std::string text_of(const std::string& id);
  // Keys as a person presses them, at what has the focus.
  void type(const std::string& keys);
  // What pages wrote to the console as errors.
  Json errors();

 private:
  Json send(const std::string& method, const std::string& path, const Json& body = {});
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::testing
