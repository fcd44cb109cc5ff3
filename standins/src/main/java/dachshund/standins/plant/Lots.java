package dachshund.standins.plant;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Lots of the pellet lines as somebody sees them who watches the lines. */
public final class Lots {

    private static final String LINES = "Pelleting/";

    private final Map<String, Lot> open = new HashMap<>();
    private final List<PlantTag> ids;
    private final Map<String, PlantTag> pellets = new HashMap<>();

    /**
     * A lot that has ended, or that goes on.
     *
     * @param kilograms what the line made of it; what its counter showed when it began, as long as it goes on
     */
    public record Lot(String line, String id, Instant begun, Instant ended, long kilograms) {}

    public Lots(PelletWorks plant) {
        ids = plant.tags().stream()
                .filter(tag -> tag.path().startsWith(LINES) && tag.name().equals("Lot ID"))
                .toList();
        plant.tags().stream()
                .filter(tag -> tag.path().startsWith(LINES) && tag.name().equals("Pellets made"))
                .forEach(tag -> pellets.put(tag.path(), tag));
    }

    /** Those that have ended since it was asked last. */
    public List<Lot> ended(Instant now) {
        List<Lot> ended = new ArrayList<>();
        for (PlantTag tag : ids) {
            String id = (String) tag.value();
            long made = (Long) pellets.get(tag.path()).value();
            Lot before = open.get(tag.path());
            if (before != null && before.id().equals(id)) {
                continue;
            }
            if (before != null) {
                ended.add(new Lot(before.line(), before.id(), before.begun(), now, made - before.kilograms()));
            }
            open.put(tag.path(), new Lot(tag.path().substring(LINES.length()), id, now, now, made));
        }
        return ended;
    }
}
