package dachshund.standins.plant;

import java.io.BufferedWriter;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * What the plant did before anybody was there to record it: the same simulation, run up to the present, as a CSV file with a
 * column of times and one for each tag, by the names that it has in the demo.
 */
public final class PlantPast {

    private static final Duration STEP = Duration.ofSeconds(10);

    private PlantPast() {}

    private record Column(String name, PlantTag tag, double scale) {}

    /** The plant as it is at the end of it, and the lots that have ended. */
    public record Past(PelletWorks plant, Lots lots, List<Lots.Lot> ended) {}

    /**
     * Writes the file as a whole or not at all.
     *
     * @param back how far it goes back
     */
    public static Past write(long seed, Instant until, Duration back, Path file) {
        Instant from = Instant.ofEpochSecond(until.minus(back).getEpochSecond() / STEP.toSeconds() * STEP.toSeconds());
        PelletWorks plant = new PelletWorks(seed, from);
        List<Column> columns = columns(plant);
        Lots lots = new Lots(plant);
        List<Lots.Lot> ended = new ArrayList<>();
        Path next = file.resolveSibling(file.getFileName() + ".new");
        try (BufferedWriter to = Files.newBufferedWriter(next, StandardCharsets.UTF_8)) {
            StringBuilder line = new StringBuilder("time");
            columns.forEach(each -> line.append(",\"").append(each.name()).append('"'));
            for (Instant at = from; at.isBefore(until); at = at.plus(STEP)) {
                plant.runTo(at);
                ended.addAll(lots.ended(at));
                to.append(line).append('\n');
                line.setLength(0);
                line.append(at.getEpochSecond());
                columns.forEach(each -> cell(line.append(','), each));
            }
            to.append(line).append('\n');
        } catch (IOException cannot) {
            throw new UncheckedIOException(cannot);
        }
        try {
            Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException cannot) {
            throw new UncheckedIOException(cannot);
        }
        plant.runTo(until);
        return new Past(plant, lots, ended);
    }

    private static List<Column> columns(PelletWorks plant) {
        List<Column> columns = new ArrayList<>();
        plant.tags()
                .forEach(tag -> columns.add(
                        new Column("Pellet works / " + tag.path().replace("/", " / ") + " / " + tag.name(), tag, 1)));
        plant.meters().forEach(meter -> meter.tags()
                .forEach(tag -> columns.add(new Column(
                        "Energy meters / Energy / " + meter.name() + " / " + tag.name(),
                        tag,
                        tag.name().equals("Energy") ? 0.1 : 1))));
        plant.silos().forEach(silo -> silo.tags()
                .forEach(tag -> columns.add(
                        new Column("Silos / quillmoor / silos / " + silo.name() + " / " + tag.name(), tag, 1))));
        return columns;
    }

    private static void cell(StringBuilder line, Column column) {
        PlantTag tag = column.tag();
        if (tag.health() != PlantTag.Health.GOOD) {
            line.append(tag.health() == PlantTag.Health.UNCERTAIN_SENSOR ? "" : "bad");
            return;
        }
        Object value = tag.value();
        if (value instanceof String text) {
            line.append('"').append(text.replace("\"", "\"\"")).append('"');
        } else if (value instanceof Double number) {
            line.append(Math.round(number * column.scale() * 1000) / 1000.0);
        } else if (column.scale() != 1) {
            line.append(Math.round(((Number) value).longValue() * column.scale() * 10) / 10.0);
        } else {
            line.append(value);
        }
    }
}
