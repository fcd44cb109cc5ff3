package dachshund.web;

import java.nio.file.Path;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import org.openqa.selenium.Dimension;
import org.openqa.selenium.WebDriverException;
import org.openqa.selenium.WindowType;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.logging.LogType;

/** The browsers of this test process. One that somebody has left is as good as new: to start another costs seconds. */
final class Browsers {

    private static final Deque<ChromeDriver> LEFT = new ArrayDeque<>();

    static {
        Runtime.getRuntime().addShutdownHook(new Thread(() -> LEFT.forEach(ChromeDriver::quit)));
    }

    private Browsers() {}

    /** One with a single empty page that has the focus, 1280 by 800, that knows nobody. */
    static synchronized ChromeDriver take() {
        ChromeDriver browser = LEFT.isEmpty() ? started() : LEFT.pop();
        browser.manage().window().setSize(new Dimension(1280, 800));
        Number extra = (Number) browser.executeScript("return window.outerHeight - window.innerHeight");
        browser.manage().window().setSize(new Dimension(1280, 800 + extra.intValue()));
        browser.manage().logs().get(LogType.BROWSER);
        return browser;
    }

    private static ChromeDriver started() {
        ChromeOptions options = new ChromeOptions();
        options.setBinary("/usr/lib/chromium/chromium-headless-shell");
        options.addArguments(
                "--no-sandbox",
                "--disable-gpu",
                "--disable-quic",
                "--no-first-run",
                "--disable-background-networking",
                "--disable-component-update",
                "--disable-sync",
                "--force-prefers-reduced-motion",
                "--force-device-scale-factor=1",
                "--window-size=1280,800");
        options.setExperimentalOption(
                "prefs",
                Map.of(
                        "download.default_directory",
                        Path.of("target").toAbsolutePath().toString()));
        return new ChromeDriver(
                new ChromeDriverService.Builder()
                        .usingDriverExecutable(Path.of("/usr/bin/chromedriver").toFile())
                        .build(),
                options);
    }

    /** Its pages are closed, and with them whatever a test did to them; what it stored is forgotten. */
    static synchronized void leave(ChromeDriver browser) {
        try {
            List<String> used = List.copyOf(browser.getWindowHandles());
            browser.switchTo().newWindow(WindowType.TAB);
            String fresh = browser.getWindowHandle();
            for (String window : used) {
                browser.switchTo().window(window);
                browser.close();
            }
            browser.switchTo().window(fresh);
            front(browser);
            browser.executeCdpCommand("Network.clearBrowserCookies", Map.of());
            browser.executeCdpCommand("Storage.clearDataForOrigin", Map.of("origin", "*", "storageTypes", "all"));
            LEFT.push(browser);
        } catch (WebDriverException broken) {
            // A dialog that nobody answered, a page that hangs: the next one gets a new browser.
            browser.quit();
        }
    }

    /** Brings the present tab to the front; a browser without a window gives none the focus by itself. */
    static void front(ChromeDriver browser) {
        browser.executeCdpCommand("Page.bringToFront", Map.of());
        browser.executeCdpCommand("Emulation.setFocusEmulationEnabled", Map.of("enabled", true));
    }
}
