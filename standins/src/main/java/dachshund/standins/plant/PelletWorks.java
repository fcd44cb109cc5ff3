package dachshund.standins.plant;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * Quillmoor Pellet Works, an invented plant: drying, milling, pelleting, cooling, bagging. Plain Java without threads
 * or clock; whoever drives it says how far time goes on, so a week passes in seconds. The same seed and the same steps
 * give the same values.
 */
public final class PelletWorks {

    private static final Duration LONGEST_STEP = Duration.ofSeconds(5);

    private final List<Equipment> equipment = new ArrayList<>();
    private final List<PlantTag> tags;
    private Instant now;

    public PelletWorks(long seed, Instant start) {
        now = start;
        Drying.Burner burner = new Drying.Burner(seed + 1);
        equipment.add(new Drying.Dryer(burner, seed + 2));
        equipment.add(burner);
        equipment.add(new HammerMill("HM1", seed + 3));
        equipment.add(new HammerMill("HM2", seed + 4));
        List<PelletLine> lines = List.of(new PelletLine("PL1", seed + 5), new PelletLine("PL2", seed + 6), new PelletLine("PL3", seed + 7));
        equipment.addAll(lines);
        equipment.add(new Cooling(lines, seed + 8));
        Bagging.Checkweigher checkweigher = new Bagging.Checkweigher(seed + 9);
        equipment.add(new Bagging.Bagger(lines, checkweigher, seed + 10));
        equipment.add(checkweigher);
        tags = equipment.stream().flatMap(each -> each.tags().stream()).toList();
        tags.forEach(tag -> tag.begin(start));
    }

    public List<PlantTag> tags() {
        return tags;
    }

    /** The instant the plant has got to. */
    public Instant now() {
        return now;
    }

    /** Lets the plant run on to the instant, in steps of 5 s at most; one in the past is passed over. */
    public void runTo(Instant until) {
        while (now.isBefore(until)) {
            Duration step = Duration.between(now, until);
            step = step.compareTo(LONGEST_STEP) > 0 ? LONGEST_STEP : step;
            now = now.plus(step);
            double seconds = step.toNanos() / 1e9;
            equipment.forEach(each -> each.advance(seconds, now));
        }
    }
}
