package dachshund.web.api;

import dachshund.core.ledger.Run;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.audit.Audit;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.security.SecurityRequirement;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Transactions for programs: how each stands, and to do one. */
@RestController
@RequestMapping(path = "/api/v1/transactions", produces = MediaType.APPLICATION_JSON_VALUE)
@SecurityRequirement(name = "token")
class TransactionApiController {

    private static final int MOST_LETTERS = 100;
    /** Beyond the limit of a run, for what waits before it. */
    private static final long GRACE_SECONDS = 5;

    private final Engine engine;
    private final Audit audit;

    /** A transaction as it is released. */
    public record Transaction(
            String id, String name, String state, String sentence, int waiting, int running, Instant lastRun) {}

    /**
     * What is asked for.
     *
     * @param request tells it from everything else that is asked for; the same one is done once, and told again how it ended
     * @param values  by the names that the transaction gathers: number, text, true or false, or null
     */
    public record Call(String request, Map<String, Object> values) {}

    /**
     * How a run stands.
     *
     * @param run     its number in the ledger; null as long as it goes on
     * @param outcome in words; "under way" as long as it goes on
     */
    public record Ended(String run, String outcome, long code, String text, String reason) {}

    TransactionApiController(Engine engine, Audit audit) {
        this.engine = engine;
        this.audit = audit;
    }

    @GetMapping
    @Operation(summary = "All transactions that are released, and how they stand")
    List<Transaction> transactions() {
        return engine.transactions().all().stream()
                .flatMap(each -> engine.transactions().status(each.id()).stream())
                .map(TransactionApiController::transaction)
                .toList();
    }

    private static Transaction transaction(TransactionStatus status) {
        return new Transaction(
                status.design().id(),
                status.design().name(),
                status.state().words(),
                status.sentence(),
                status.waiting(),
                status.running(),
                status.lastRun().equals(Instant.EPOCH) ? null : status.lastRun());
    }

    @PostMapping("/{id}/runs")
    @Operation(
            summary = "Does one, and says how it ended",
            description =
                    "id: its id, or its name. request: up to 100 letters; one that comes again is not done again, but told what became of it. 202 where it has not ended within its time.")
    CompletableFuture<ResponseEntity<Ended>> run(@PathVariable String id, @RequestBody Call call, Authentication by) {
        TransactionDefinition design = released(id);
        String request = Optional.ofNullable(call.request()).orElse("").strip();
        if (request.length() > MOST_LETTERS) {
            throw new IllegalArgumentException(
                    "request has " + request.length() + " letters; " + MOST_LETTERS + " are the most.");
        }
        Map<String, Object> given = given(design, call);
        audit.note(
                by.getName(), "ran a transaction", design.name() + (request.isEmpty() ? "" : ", request " + request));
        return engine.transactions()
                .called(design.id(), by.getName(), request, given)
                .thenApply(run -> ResponseEntity.ok(ended(run)))
                .completeOnTimeout(
                        ResponseEntity.status(HttpStatus.ACCEPTED).body(new Ended(null, "under way", 0, "", "")),
                        design.policy().limit().toSeconds() + GRACE_SECONDS,
                        TimeUnit.SECONDS)
                .exceptionally(not -> ResponseEntity.status(HttpStatus.SERVICE_UNAVAILABLE)
                        .body(new Ended(null, "not begun", 0, "", sentence(not))));
    }

    private static String sentence(Throwable not) {
        Throwable cause = not.getCause() == null ? not : not.getCause();
        return String.valueOf(cause.getMessage());
    }

    private static Ended ended(Run run) {
        return new Ended(run.id(), run.outcome().words(), run.code(), run.text(), run.reason());
    }

    private TransactionDefinition released(String idOrName) {
        return engine.transactions().all().stream()
                .filter(each -> each.id().equals(idOrName) || each.name().equalsIgnoreCase(idOrName))
                .findFirst()
                .orElseThrow(() -> new NoSuchElementException("There is no released transaction " + idOrName + "."));
    }

    private static Map<String, Object> given(TransactionDefinition design, Call call) {
        Map<String, Object> given = new LinkedHashMap<>();
        Optional.ofNullable(call.values()).orElse(Map.of()).forEach((name, value) -> {
            if (design.gathers().stream().noneMatch(each -> each.name().equals(name))) {
                throw new IllegalArgumentException("It gathers nothing that is called " + name + ".");
            }
            if (value instanceof Map || value instanceof List) {
                throw new IllegalArgumentException(name + " has to be a number, a text, true, false or null.");
            }
            given.put(name, value instanceof Number number ? new BigDecimal(number.toString()) : value);
        });
        return given;
    }
}
