package dachshund.web;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.openqa.selenium.By;
import org.openqa.selenium.OutputType;
import org.openqa.selenium.WebDriverException;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.logging.LogType;
import org.openqa.selenium.support.ui.Select;
import org.openqa.selenium.support.ui.WebDriverWait;

/** Somebody at a real browser. Counts what they do: every click and every filled field is one action. */
final class Actor implements AutoCloseable {

    static final Duration PATIENCE = Duration.ofSeconds(60);

    final ChromeDriver browser;
    private final Site site;
    private int actions;

    Actor(Site site) {
        this.site = site;
        browser = Browsers.take();
    }

    /** Another tab, in front. */
    void newTab() {
        browser.switchTo().newWindow(org.openqa.selenium.WindowType.TAB);
        front();
    }

    /** Brings the present tab to the front. */
    void front() {
        Browsers.front(browser);
    }

    /** Again where our own database did not answer in time, as on a busy machine. */
    Actor signIn(String name, String password) {
        patiently().until(any -> {
            go("/sign-in");
            fill("#username", name);
            fill("#password", password);
            click("form button");
            // Going elsewhere before the answer is here would take the page that the answer leads to.
            patiently().until(arrived -> !site.address("/sign-in").equals(arrived.getCurrentUrl()));
            return !site.address("/sign-in?away").equals(browser.getCurrentUrl());
        });
        return this;
    }

    void go(String path) {
        browser.get(site.address(path));
    }

    int actions() {
        return actions;
    }

    void countFromHere() {
        actions = 0;
    }

    private WebDriverWait patiently() {
        WebDriverWait wait = new WebDriverWait(browser, PATIENCE, Duration.ofMillis(100)) {
            @Override
            protected RuntimeException timeoutException(String message, Throwable last) {
                keepPicture();
                return super.timeoutException(message + " at " + browser.getCurrentUrl() + "; " + standing(), last);
            }
        };
        // Whatever the browser says of an element while a page takes the place of another is "not yet".
        wait.ignoring(WebDriverException.class);
        return wait;
    }

    /** What the page was busy with when a test gave up waiting: its focus, requests under way and the last ones made. */
    private String standing() {
        return "focus "
                + browser.executeScript(
                        "return document.hasFocus() + ' on ' + (document.activeElement?.id || document.activeElement?.tagName) + ', under way '"
                                + " + document.querySelectorAll('.htmx-request').length + ', last requests ' + performance.getEntriesByType('resource').slice(-6)"
                                + ".map(each => new URL(each.name).pathname + ' ' + Math.round(each.startTime) + '+' + Math.round(each.duration) + ' ms ' + each.responseStatus).join('; ')")
                + "; said " + complaints();
    }

    /** What the browser showed when a test gave up waiting, and what the application was doing: target/failure-N. */
    private void keepPicture() {
        String name = "failure-" + System.nanoTime();
        try {
            Files.writeString(
                    Path.of("target", name + ".txt"),
                    Thread.getAllStackTraces().entrySet().stream()
                            .map(each -> each.getKey() + " " + each.getKey().getState() + "\n\t"
                                    + Arrays.stream(each.getValue())
                                            .map(StackTraceElement::toString)
                                            .collect(Collectors.joining("\n\t")))
                            .sorted()
                            .collect(Collectors.joining("\n\n")));
            Files.write(Path.of("target", name + ".png"), browser.getScreenshotAs(OutputType.BYTES));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    WebElement see(String css) {
        return patiently().withMessage(css).until(driver -> shown(css, ""));
    }

    /**
     * The first such element if it can be seen, after a script was run on it. One question to the browser: the driver's own ways of asking
     * whether an element is shown, and for its text, are scripts of tens of kilobytes, and take most of its time when they are asked again
     * and again.
     */
    private WebElement shown(String css, String thenDo) {
        return (WebElement) browser.executeScript(
                "const found = document.querySelector(arguments[0]);" + thenDo
                        + "return found && found.getClientRects().length > 0 && found.checkVisibility({opacityProperty: true, visibilityProperty: true}) ? found : null",
                css);
    }

    /**
     * Waits until the page's scripts have seen its forms, since before that an edit would be heard by nobody; and until the page has the
     * focus, since without it a field that is left fires no change.
     */
    private void loaded() {
        patiently()
                .withMessage("the page's scripts")
                .until(
                        driver -> (Boolean)
                                browser.executeScript(
                                        "return (document.documentElement.dataset.ready === 'yes' || document.readyState === 'complete' && !document.querySelector('script[src=\"/js/requests.js\"]')) && document.hasFocus() && !document.querySelector('.htmx-added, .htmx-settling, .htmx-swapping')"));
    }

    /** Waits until an element holds the text. */
    void see(String css, String text) {
        patiently()
                .withMessage(() -> "\"" + text + "\" in " + css + ", which says: " + texts(css))
                .until(driver -> holding(css, text).stream()
                        .anyMatch(each -> each.getText().contains(text)));
    }

    /** Such elements that may hold the text: the driver, which knows what can be seen, is asked of no others. */
    @SuppressWarnings("unchecked")
    private List<WebElement> holding(String css, String text) {
        return (List<WebElement>) browser.executeScript(
                "return [...document.querySelectorAll(arguments[0])].filter(each => each.textContent.replace(/\\s+/g, '').toLowerCase().includes(arguments[1]))",
                css,
                text.replaceAll("\\s+", "").toLowerCase(Locale.ROOT));
    }

    /** The texts of all such elements at one moment, whatever refreshes itself meanwhile. */
    @SuppressWarnings("unchecked")
    List<String> texts(String css) {
        return (List<String>) browser.executeScript(
                "return [...document.querySelectorAll(arguments[0])].map(each => each.innerText)", css);
    }

    /** Does something that gets the design anew, and waits until it is there. */
    void edit(Runnable what) {
        loaded();
        browser.executeScript("document.getElementById('design').dataset.before = 'yes'");
        what.run();
        patiently()
                .withMessage("the design anew")
                .until(driver -> driver.findElements(By.cssSelector("#design[data-before]"))
                                .isEmpty()
                        && !driver.findElements(By.id("design")).isEmpty());
    }

    /** Chooses a value of a selection. */
    void choose(String css, String value) {
        actions++;
        loaded();
        patiently().until(driver -> {
            new Select(driver.findElement(By.cssSelector(css))).selectByValue(value);
            return true;
        });
    }

    void click(String css) {
        actions++;
        loaded();
        patiently().until(driver -> {
            WebElement found = shown(
                    css,
                    "found?.scrollIntoView({block: 'center', inline: 'center'}); if (found?.disabled) return null;");
            if (found == null) {
                return null;
            }
            found.click();
            return true;
        });
    }

    /** Fills a field and leaves it. */
    void fill(String css, String text) {
        actions++;
        loaded();
        patiently().until(driver -> {
            WebElement field = shown(css, "");
            if (field == null) {
                return null;
            }
            field.clear();
            field.sendKeys(text);
            return true;
        });
    }

    /** Types into a field of a draft, and waits until the page has taken it. */
    void type(String css, String text) {
        edit(() -> fillAndLeave(css, text));
    }

    /** The same of a choice. */
    void pick(String css, String value) {
        edit(() -> choose(css, value));
    }

    /** Finds a tag beside a field that looks for one, and takes it. */
    void tag(String field, String name) {
        fill(field, name);
        see(field + " + .found button", name);
        edit(() -> click(field + " + .found button"));
    }

    void fillAndLeave(String css, String text) {
        actions++;
        loaded();
        // The answer to the edit before may take its place at any moment: then it is typed into the one that is there.
        patiently().withMessage(css).until(driver -> {
            WebElement field = shown(css, "found?.focus(); found?.select();");
            if (field == null) {
                return null;
            }
            field.sendKeys(text);
            browser.executeScript("arguments[0].blur()", field);
            return true;
        });
    }

    /** Complaints of the browser, such as blocked scripts; a page should cause none. */
    List<String> complaints() {
        return browser.manage().logs().get(LogType.BROWSER).getAll().stream()
                .map(entry -> entry.getMessage())
                .toList();
    }

    @Override
    public void close() {
        Browsers.leave(browser);
    }
}
