#include "support/browser.hpp"

#include <arpa/inet.h>
#include <fcntl.h>
#include <fmt/core.h>
#include <httplib.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <filesystem>
#include <stdexcept>
#include <thread>

namespace orchard::testing {
namespace {

constexpr const char* driver_path = "/usr/bin/chromedriver";
constexpr const char* browser_path = "/usr/bin/chromium";

// A port that was free a moment ago.
int free_port() {
  const int probe = socket(AF_INET, SOCK_STREAM, 0);
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  socklen_t size = sizeof(address);
  const bool bound = bind(probe, reinterpret_cast<sockaddr*>(&address), size) == 0 &&
                     getsockname(probe, reinterpret_cast<sockaddr*>(&address), &size) == 0;
  close(probe);
  if (!bound) throw std::runtime_error("no port is free");
  return ntohs(address.sin_port);
}

}  // namespace

struct Browser::Inner {
  pid_t driver = -1;
  std::unique_ptr<httplib::Client> client;
  std::string session;
};

bool Browser::is_installed() {
  return std::filesystem::exists(driver_path) && std::filesystem::exists(browser_path);
}

Browser::Browser() : inner_(std::make_unique<Inner>()) {
  const int port = free_port();
  const std::string of_port = fmt::format("--port={}", port);
  inner_->driver = fork();
  if (inner_->driver == 0) {
    const int nothing = ::open("/dev/null", O_RDWR);
    for (int stream = 0; stream < 3; ++stream) dup2(nothing, stream);
    execl(driver_path, driver_path, of_port.c_str(), "--silent", static_cast<char*>(nullptr));
    _exit(127);
  }
  inner_->client = std::make_unique<httplib::Client>("127.0.0.1", port);
  inner_->client->set_read_timeout(60);
  for (int i = 0; i < 100 && !inner_->client->Get("/status"); ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  const Json options = {{"binary", browser_path},
                        {"args",
                         {"--headless=new", "--no-sandbox", "--disable-gpu",
                          "--disable-dev-shm-usage", "--window-size=1280,939"}}};
  const Json always = {{"browserName", "chrome"},
                       {"goog:chromeOptions", options},
                       {"goog:loggingPrefs", {{"browser", "ALL"}}}};
  inner_->session =
      send("POST", "/session", {{"capabilities", {{"alwaysMatch", always}}}})["sessionId"];
}

Browser::~Browser() {
  try {
    send("DELETE", "/session/" + inner_->session);
  } catch (const std::exception&) {
    // It goes with its driver.
  }
  kill(inner_->driver, SIGTERM);
  waitpid(inner_->driver, nullptr, 0);
}

Json Browser::send(const std::string& method, const std::string& path, const Json& body) {
  httplib::Client& client = *inner_->client;
  const auto answer =
      method == "POST"  ? client.Post(path, body.is_null() ? "{}" : body.dump(), "application/json")
      : method == "GET" ? client.Get(path)
                        : client.Delete(path);
  if (!answer) throw std::runtime_error("the driver of the browser does not answer: " + path);
  const Json document = Json::parse(answer->body);
  if (answer->status != 200) throw std::runtime_error(document.dump());
  return document["value"];
}

void Browser::open(const std::string& address) {
  send("POST", "/session/" + inner_->session + "/url", {{"url", address}});
}

Json Browser::run(const std::string& script, const Json& arguments) {
  return send("POST", "/session/" + inner_->session + "/execute/sync",
              {{"script", script}, {"args", arguments}});
}

bool Browser::wait_for(const std::string& script, const Json& arguments) {
  for (int i = 0; i < 600; ++i) {
    const Json answer = run(script, arguments);
    if (!answer.is_null() && answer != false && answer != "" && answer != 0) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  }
  return false;
}

std::string Browser::text_of(const std::string& id) {
  return run("return document.getElementById(arguments[0]).textContent", {id}).get<std::string>();
}

void Browser::type(const std::string& keys) {
  Json actions = Json::array();
  for (const char key : keys) {
    actions.push_back({{"type", "keyDown"}, {"value", std::string(1, key)}});
    actions.push_back({{"type", "keyUp"}, {"value", std::string(1, key)}});
  }
  send("POST", "/session/" + inner_->session + "/actions",
       {{"actions", {{{"type", "key"}, {"id", "keys"}, {"actions", actions}}}}});
}

Json Browser::errors() {
  Json result = Json::array();
  for (const Json& entry :
       send("POST", "/session/" + inner_->session + "/se/log", {{"type", "browser"}})) {
    if (entry["level"] == "SEVERE") result.push_back(entry["message"]);
  }
  return result;
}

}  // namespace orchard::testing
