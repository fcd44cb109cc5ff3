package dachshund.engine.transaction;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.ledger.Run;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.TypedValue;
import dachshund.engine.local.KeptTriggers;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/** A trigger as it waits on disk: with what it was given, and what was gathered as it came. */
final class KeptTrigger {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final TagValue[] NONE = new TagValue[0];

    private KeptTrigger() {}

    static String document(Trigger trigger) {
        ObjectNode all = JSON.createObjectNode();
        all.put("at", trigger.at().toString());
        all.put("why", trigger.why());
        all.set("given", TypedValue.map(trigger.given()));
        trigger.gathered().ifPresent(gathered -> {
            ObjectNode what = all.putObject("gathered");
            what.set("values", TypedValue.map(gathered.values()));
            what.put("problem", gathered.problem());
            ObjectNode snapshot = what.putObject("snapshot");
            gathered.snapshot().forEach((name, read) -> {
                ObjectNode one = snapshot.putObject(name);
                one.put("value", read.value());
                one.put("at", read.at() == null ? null : read.at().toString());
                one.put("quality", read.quality());
            });
        });
        return all.toString();
    }

    /**
     * As it comes again after a restart: it may have been begun before.
     *
     * @throws IllegalArgumentException where it cannot be read
     */
    static Trigger read(KeptTriggers.Kept kept, Trigger.Origin origin) {
        try {
            JsonNode all = JSON.readTree(kept.document());
            return new Trigger(
                    Instant.parse(all.get("at").textValue()),
                    all.get("why").textValue(),
                    kept.identity(),
                    null,
                    false,
                    NONE,
                    NONE,
                    TypedValue.map(all.get("given")),
                    gathered(all.path("gathered")),
                    origin);
        } catch (JsonProcessingException | RuntimeException unreadable) {
            throw new IllegalArgumentException(
                    "A trigger that was kept cannot be read: " + kept.document(), unreadable);
        }
    }

    private static Optional<GatheredNow> gathered(JsonNode what) {
        if (what.isMissingNode()) {
            return Optional.empty();
        }
        Map<String, Run.Read> snapshot = new LinkedHashMap<>();
        what.get("snapshot").properties().forEach(each -> {
            JsonNode read = each.getValue();
            snapshot.put(
                    each.getKey(),
                    new Run.Read(
                            read.get("value").textValue(),
                            read.get("at").isNull()
                                    ? null
                                    : Instant.parse(read.get("at").textValue()),
                            read.get("quality").textValue()));
        });
        return Optional.of(new GatheredNow(
                TypedValue.map(what.get("values")),
                snapshot,
                what.get("problem").textValue()));
    }
}
