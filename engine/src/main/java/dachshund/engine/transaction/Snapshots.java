package dachshund.engine.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.ledger.Run;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Known;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/** What a run had, as the ledger keeps it in words, made values again. */
public final class Snapshots {

    private Snapshots() {}

    static Map<String, Object> given(TransactionDefinition design, Run run, Plant plant) {
        Map<String, Object> given = new LinkedHashMap<>();
        given.put(Known.FIRED, run.fired());
        Optional.ofNullable(run.keys().get(Known.REQUEST)).ifPresent(words -> given.put(Known.REQUEST, value(words)));
        run.snapshot().forEach((name, read) -> {
            Optional<DataKind> kind = design.gathers().stream()
                    .filter(each -> each.name().equals(name) && each.over().isEmpty())
                    .findFirst()
                    .flatMap(each -> kind(each, design, plant));
            given.put(name, kind.map(each -> typed(each, read.value())).orElseGet(() -> value(read.value())));
        });
        return given;
    }

    private static Optional<DataKind> kind(Gathered each, TransactionDefinition design, Plant plant) {
        return each.property().isEmpty()
                ? plant.tag(each.tag()).map(TagInfo::kind)
                : plant.property(design.equipment(), each.property())
                        .map(of -> of.design().kind());
    }

    private static Object typed(DataKind kind, String words) {
        if (words.equals(Values.words(null))) {
            return null;
        }
        return switch (kind) {
            case TEXT -> words;
            case BOOLEAN -> words.equals(Values.words(true));
            default -> value(words);
        };
    }

    /** What somebody wrote, or a run had: a number, an instant (RFC 3339), nothing, or a text. */
    public static Object value(String words) {
        String text = words.strip();
        if (text.isEmpty() || text.equals(Values.words(null))) {
            return null;
        }
        // A number that does not begin with a nought: those are mostly names of things.
        if (text.matches("-?(0|[1-9]\\d{0,30})(\\.\\d{1,30})?([eE][-+]?\\d{1,3})?")) {
            return new BigDecimal(text);
        }
        try {
            return Instant.parse(text);
        } catch (DateTimeException none) {
            return words;
        }
    }
}
