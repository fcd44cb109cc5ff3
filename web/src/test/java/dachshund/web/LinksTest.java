package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URI;
import java.net.http.HttpResponse;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Every link of the demo's pages leads to a page: from the first one on, each address that any page names is asked once. */
class LinksTest {

    private static final Pattern LINK = Pattern.compile("<a [^>]*href=\"(/[^\"#]*)");
    /** Files that are taken out, and may be large. */
    private static final Pattern FILE = Pattern.compile(".*\\.(csv|json|jsonl|xlsx|parquet|svg|png|pem)$|.*/export$");

    private static final int MANY = 60;

    @Test
    void everyLinkLeadsToAPage() throws Exception {
        Visitor engineer = new Visitor(Site.demo()).signIn("engineer", "engineer-demo");
        Set<String> asked = new HashSet<>();
        Map<String, String> from = new HashMap<>();
        Deque<String> ahead = new ArrayDeque<>();
        ahead.add("/");
        Set<String> dead = new TreeSet<>();
        while (!ahead.isEmpty()) {
            String address = ahead.remove();
            HttpResponse<String> page = engineer.get(address);
            for (int hops = 0; page.statusCode() == 302 && hops < 5; hops++) {
                page = engineer.get(page.headers().firstValue("Location").orElseThrow());
            }
            if (page.statusCode() != 200) {
                dead.add(address + " on " + from.get(address) + ": " + page.statusCode());
            }
            Matcher links = LINK.matcher(page.body());
            while (links.find()) {
                String link = links.group(1).replace("&amp;", "&");
                String path = URI.create(link).getPath();
                // What is asked behind a path is one of many choices of the same page.
                if (!FILE.matcher(path).matches() && asked.add(path)) {
                    from.put(link, address);
                    ahead.add(link);
                }
            }
        }
        assertThat(asked).as("pages that were found").hasSizeGreaterThan(MANY);
        assertThat(dead).isEmpty();
    }
}
