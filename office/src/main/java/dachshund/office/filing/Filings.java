package dachshund.office.filing;

import dachshund.core.tag.TagFacts;
import dachshund.office.own.OwnDatabase;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Folders and labels of everything that is designed. They are no part of a design: a change is there at once, needs no release
 * and touches nothing that works. Kept in our own database; empty until it answers for the first time.
 */
@Component
public class Filings {

    private static final int MOST_LABELS = 30;

    private final JdbcClient jdbc;
    private final TransactionTemplate transaction;
    private volatile Map<String, Filed> byId = Map.of();
    private volatile long version;

    Filings(JdbcClient jdbc, TransactionTemplate transaction, OwnDatabase database) {
        this.jdbc = jdbc;
        this.transaction = transaction;
        database.whenReady(this::load);
    }

    private synchronized void load() {
        Map<String, Filed> all = new HashMap<>();
        jdbc.sql("SELECT definition_id, folder, labels FROM filed").query(row -> {
            all.put(row.getString(1), Filed.read(row.getString(2), row.getString(3)));
        });
        become(all);
    }

    private void become(Map<String, Filed> all) {
        byId = all;
        version++;
    }

    public Filed of(String id) {
        return byId.getOrDefault(id, Filed.NOWHERE);
    }

    /** Another number means that something was filed otherwise. */
    public long version() {
        return version;
    }

    /** Every folder that something stands in, and those above it. */
    public SortedSet<String> folders() {
        SortedSet<String> all = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        for (Filed filed : byId.values()) {
            for (String at = filed.folder(); !at.isEmpty(); at = at.substring(0, Math.max(0, at.lastIndexOf(" / ")))) {
                all.add(at);
            }
        }
        return all;
    }

    /**
     * Files one thing.
     *
     * @throws IllegalArgumentException with a sentence, where it has too many labels
     */
    public void file(String id, Filed filed) {
        change(List.of(id), before -> filed);
    }

    /**
     * Moves things to a folder.
     *
     * @return how many stood elsewhere
     */
    public int move(Collection<String> ids, String folder) {
        String to = Filed.folder(folder);
        return change(ids, before -> before.in(to));
    }

    /**
     * Gives things these labels too.
     *
     * @return how many lacked one
     */
    public int label(Collection<String> ids, String labels) {
        List<String> more = TagFacts.labels(labels);
        return change(
                ids,
                before -> before.labelled(Stream.concat(before.labels().stream(), more.stream())
                        .distinct()
                        .toList()));
    }

    /**
     * Takes these labels off things.
     *
     * @return how many had one
     */
    public int unlabel(Collection<String> ids, String labels) {
        List<String> off = TagFacts.labels(labels);
        return change(
                ids,
                before -> before.labelled(before.labels().stream()
                        .filter(each -> !off.contains(each))
                        .toList()));
    }

    private synchronized int change(Collection<String> ids, UnaryOperator<Filed> step) {
        Map<String, Filed> all = new HashMap<>(byId);
        Map<String, Filed> changed = new HashMap<>();
        for (String id : ids) {
            Filed next = step.apply(of(id));
            if (next.labels().size() > MOST_LABELS) {
                throw new IllegalArgumentException("A thing has up to " + MOST_LABELS + " labels.");
            }
            if (!next.equals(of(id))) {
                changed.put(id, next);
            }
        }
        transaction.executeWithoutResult(status -> changed.forEach((id, filed) -> jdbc.sql(
                        "INSERT INTO filed (definition_id, folder, labels) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE folder = VALUES(folder), labels = VALUES(labels)")
                .params(id, filed.folder(), String.join(", ", filed.labels()))
                .update()));
        all.putAll(changed);
        if (!changed.isEmpty()) {
            become(all);
        }
        return changed.size();
    }
}
