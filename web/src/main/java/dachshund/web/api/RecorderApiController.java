package dachshund.web.api;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.office.definition.Definitions;
import dachshund.office.landed.LandedRows;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.security.SecurityRequirement;
import java.time.Instant;
import java.util.List;
import java.util.NoSuchElementException;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What is recorded, for programs: how each recorder stands, and its rows. */
@RestController
@RequestMapping(path = "/api/v1/recorders", produces = MediaType.APPLICATION_JSON_VALUE)
@SecurityRequirement(name = "token")
class RecorderApiController {

    private static final int MOST_ROWS = 10_000;

    private final Definitions definitions;
    private final Engine engine;
    private final LandedRows landed;

    /**
     * A recorder as it is released.
     *
     * @param held     rows that its destinations have not taken within 5 s
     * @param setAside rows that did not fit
     */
    public record Recorder(
            String id,
            String name,
            String state,
            String sentence,
            long landed,
            long held,
            long setAside,
            List<Lane> destinations) {}

    /** Its way into one destination. */
    public record Lane(String destination, String state, String sentence, long landed, long held, Instant lastRow) {}

    /**
     * Rows of a recorder, the newest first.
     *
     * @param columns their names
     * @param rows    cells in the order of the columns: number, text, true or false, RFC 3339 time, or null
     */
    public record Rows(String destination, String place, List<String> columns, List<List<Object>> rows) {}

    RecorderApiController(Definitions definitions, Engine engine, LandedRows landed) {
        this.definitions = definitions;
        this.engine = engine;
        this.landed = landed;
    }

    @GetMapping
    @Operation(summary = "All recorders that are released, and how they stand")
    List<Recorder> recorders() {
        return engine.status().values().stream().map(this::recorder).toList();
    }

    @GetMapping("/{id}")
    @Operation(summary = "How one recorder stands", description = "id: its id, or its name.")
    Recorder one(@PathVariable String id) {
        return recorder(engine.status().get(released(id).id()));
    }

    @GetMapping("/{id}/rows")
    @Operation(
            summary = "Its newest rows as its first destination holds them, the newest first",
            description = "most: 1 to 10,000; 100 where it is not said.")
    Rows rows(@PathVariable String id, @RequestParam(defaultValue = "100") int most) throws StoreProblem {
        if (most < 1 || most > MOST_ROWS) {
            throw new IllegalArgumentException("most is 1 to " + MOST_ROWS + ".");
        }
        RecorderDefinition recorder = released(id);
        try (LandedRows.Opened rows = landed.of(recorder)
                .orElseThrow(() -> new NoSuchElementException(recorder.name() + " has no rows to be read yet."))) {
            RowReading.TablePage page = rows.newest(most);
            return new Rows(rows.destination().name(), rows.place().words(), page.columns(), page.rows());
        }
    }

    private RecorderDefinition released(String idOrName) {
        return engine.status().values().stream()
                .map(RecorderStatus::definition)
                .filter(each -> each.id().equals(idOrName) || each.name().equalsIgnoreCase(idOrName))
                .findFirst()
                .orElseThrow(() -> new NoSuchElementException("There is no released recorder " + idOrName + "."));
    }

    private Recorder recorder(RecorderStatus status) {
        return new Recorder(
                status.definition().id(),
                status.definition().name(),
                status.state().words(),
                status.sentence(),
                status.lanes().stream().mapToLong(RecorderApiController::landed).sum(),
                status.held(),
                status.setAside(),
                status.lanes().stream().map(this::lane).toList());
    }

    private static long landed(LaneStatus lane) {
        return lane.account().landed() + lane.account().before();
    }

    private Lane lane(LaneStatus lane) {
        return new Lane(
                definitions.find(lane.destination()).map(Definition::name).orElse(lane.destination()),
                lane.state().words(),
                lane.sentence(),
                landed(lane),
                lane.held(),
                lane.lastRow().equals(Instant.EPOCH) ? null : lane.lastRow());
    }
}
