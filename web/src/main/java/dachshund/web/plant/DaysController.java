package dachshund.web.plant;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.tag.DataKind;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.Engine;
import dachshund.office.archive.Histories;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The small plots of the tag list: the last 24 hours of tags, as the archive knows them. */
@Needs(Right.SEE)
@Controller
class DaysController {

    private static final Duration DAY = Duration.ofHours(24);
    private static final int POINTS = 72;
    private static final int MOST = 100;

    private final TagFinder finder;
    private final Histories histories;
    private final Engine engine;

    DaysController(TagFinder finder, Histories histories, Engine engine) {
        this.finder = finder;
        this.histories = histories;
        this.engine = engine;
    }

    /** Pairs of seconds before now and value, a break an absent value, by tag; of tags of which nothing is kept nothing. */
    @GetMapping("/plant/tags/day")
    @ResponseBody
    Map<String, List<Double[]>> day(@RequestParam MultiValueMap<String, String> asked) {
        List<String> key = asked.getOrDefault("key", List.of()); // a list would be cut at the commas of an address
        Instant now = engine.clock().now();
        Map<String, List<Double[]>> all = new LinkedHashMap<>();
        for (String each : key.subList(0, Math.min(MOST, key.size()))) {
            Optional<FoundTag> tag = finder.find(TagFinder.ref(each));
            if (tag.isPresent() && tag.get().info().kind().numeric()) {
                try {
                    all.put(each, day(tag.get(), now));
                } catch (Problem away) {
                    return Map.of(); // our own database: the page says so elsewhere, and asks again
                }
            }
        }
        return all;
    }

    private List<Double[]> day(FoundTag tag, Instant now) throws Problem {
        Samples points = histories.outline(
                tag.ref(), now.minus(DAY), now, POINTS, tag.info().kind() != DataKind.NUMBER);
        List<Double[]> all = new ArrayList<>();
        for (int i = 0; i < points.size(); i++) {
            double ago =
                    Duration.between(OpcUaTime.toInstant(points.time(i)), now).toMillis() / 1000.0;
            all.add(new Double[] {ago, points.grade(i) == Samples.GOOD ? points.value(i) : null});
        }
        return all;
    }
}
