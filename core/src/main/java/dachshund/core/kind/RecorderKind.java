package dachshund.core.kind;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.Sentences;
import dachshund.core.definition.UpToDate;
import dachshund.core.destination.Place;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.ColumnSource;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Recorders, as the general parts know them. */
public final class RecorderKind extends DefinitionKind<RecorderDefinition> {

    public RecorderKind() {
        super(60, "RECORDER", "Recorder", "recorder", RecorderDefinition.class);
    }

    @Override
    protected Set<String> things(RecorderDefinition recorder) {
        Set<String> things = new HashSet<>();
        things.add(recorder.equipment());
        recorder.wheres().forEach(where -> things.add(where.destination()));
        recorder.follows().ifPresent(follows -> things.add(follows.original()));
        recorder.layout().columnsAndFields().forEach(column -> {
            if (column.from() instanceof ColumnSource.FromProperty from) {
                things.add(from.equipment());
            }
        });
        things.remove("");
        return things;
    }

    @Override
    protected Set<TagRef> tags(RecorderDefinition recorder) {
        return Set.copyOf(recorder.everyTag());
    }

    @Override
    protected List<String> introduced(RecorderDefinition recorder, Named named) {
        List<String> sentences = new ArrayList<>();
        sentences.add("Writes " + whens(recorder) + ", "
                + Sentences.count(recorder.layout().columns().size(), "column") + ": "
                + LayoutDifferences.columnNames(recorder.layout()) + ".");
        recorder.gate().ifPresent(gate -> sentences.add("Gate: only while " + gate.text() + "."));
        LineUpDifferences.introduced(recorder.follows(), named, sentences);
        recorder.confirms().ifPresent(confirms -> sentences.add(confirmation(recorder, named)));
        if (!recorder.keys().isEmpty()) {
            sentences.add("The ledger finds its rows by " + String.join(", ", recorder.keys()) + ".");
        }
        recorder.wheres()
                .forEach(where -> sentences.add("Writes to " + place(where, named) + "; " + permissions(where) + "."));
        return sentences;
    }

    @Override
    protected List<String> removed(RecorderDefinition recorder, Named named) {
        return List.of("Stops writing "
                + recorder.wheres().stream().map(where -> place(where, named)).collect(Collectors.joining(" and "))
                + ". The rows that are there stay, and rows still held are sent.");
    }

    @Override
    protected void changed(RecorderDefinition was, RecorderDefinition is, Named named, Sentences sentences) {
        sentences.compare("Equipment", equipment(was, named), equipment(is, named));
        sentences.compare("When", whens(was), whens(is));
        if (whens(was).equals(whens(is)) && !was.whens().equals(is.whens())) {
            sentences.add("The tags that its When looks at change.");
        }
        sentences.compare("Gate", gate(was), gate(is));
        if (was.gate().isPresent() && gate(was).equals(gate(is)) && !was.gate().equals(is.gate())) {
            sentences.add("The tags that its gate looks at change.");
        }
        sentences.compare("Confirmation", confirmation(was, named), confirmation(is, named));
        if (confirmation(was, named).equals(confirmation(is, named))
                && !was.confirms().equals(is.confirms())) {
            sentences.add("The tags in which the plant is told change.");
        }
        LayoutDifferences.rows(sentences, was.layout(), is.layout());
        LineUpDifferences.changed(was.follows(), is.follows(), named, sentences);
        sentences.compare("Keys of the ledger", String.join(", ", was.keys()), String.join(", ", is.keys()));
        new LayoutDifferences(named).columns(sentences, was.layout(), is.layout());
        wheres(sentences, was, is, named);
    }

    /**
     * Into tables of its own, told apart as its name is: rows of two recorders in one table are hard to part again. It confirms nothing:
     * the plant would be told twice.
     */
    @Override
    public Optional<RecorderDefinition> duplicate(RecorderDefinition of, String id, String name) {
        String last = name.substring(name.lastIndexOf(' ') + 1);
        String apart = last.matches("\\d+") ? "_" + last : "_copy";
        return Optional.of(new RecorderDefinition(
                id,
                name,
                of.description(),
                of.equipment(),
                of.whens(),
                of.gate(),
                of.layout(),
                of.wheres().stream()
                        .map(where -> where.withTable(where.table() + apart))
                        .toList(),
                Optional.empty(),
                Optional.empty(),
                of.keys()));
    }

    @Override
    public boolean mayGoWhileNamed() {
        return true;
    }

    @Override
    protected void upToDate(ObjectNode document, int schemaVersion) {
        if (schemaVersion < 2) {
            UpToDate.recorderFrom1(document);
        }
    }

    private static String equipment(RecorderDefinition recorder, Named named) {
        return recorder.equipment().isEmpty() ? "" : named.name(recorder.equipment());
    }

    private static String gate(RecorderDefinition recorder) {
        return recorder.gate().map(Condition::text).orElse("");
    }

    private static String whens(RecorderDefinition recorder) {
        return recorder.whens().stream().map(When::sentence).collect(Collectors.joining(" and "));
    }

    private static String confirmation(RecorderDefinition recorder, Named named) {
        return recorder.confirms()
                .map(each -> "Tells the plant when its row " + each.of().words() + ": " + each.done() + ", else "
                        + each.failed() + ","
                        + each.code().map(tag -> " in " + named.tag(tag)).orElse(" in no tag")
                        + each.text()
                                .map(tag -> ", why not in " + named.tag(tag))
                                .orElse("")
                        + recorder.request()
                                .flatMap(When.OnRequest::answered)
                                .map(tag -> ", then the number in " + named.tag(tag))
                                .orElse("")
                        + (each.settle().isZero()
                                ? "."
                                : "; values are looked at " + PeriodText.write(each.settle()) + " after the number."))
                .orElse("");
    }

    private static void wheres(Sentences sentences, RecorderDefinition was, RecorderDefinition is, Named named) {
        for (Where b : is.wheres()) {
            Optional<Where> a =
                    was.wheres().stream().filter(where -> samePlace(where, b)).findFirst();
            if (a.isEmpty()) {
                sentences.add("Writes to " + place(b, named) + "; " + permissions(b) + ".");
            } else if (!a.get().equals(b)) {
                sentences.add("For " + place(b, named) + ": " + permissions(b) + ".");
            }
        }
        for (Where a : was.wheres()) {
            if (is.wheres().stream().noneMatch(where -> samePlace(where, a))) {
                sentences.add("No longer writes to " + place(a, named) + "; the rows that are there stay.");
            }
        }
    }

    private static boolean samePlace(Where a, Where b) {
        return a.destination().equals(b.destination())
                && a.table().equals(b.table())
                && a.database().equals(b.database())
                && a.named().equals(b.named());
    }

    private static String place(Where where, Named named) {
        boolean files = named.thing(where.destination())
                .filter(DestinationDefinition.class::isInstance)
                .map(DestinationDefinition.class::cast)
                .filter(destination -> destination.store().equals("folder"))
                .isPresent();
        return (files ? "files " : "table ") + new Place(where.database(), where.table()).words() + " in "
                + (where.named().isEmpty() ? "" : "the destination named " + where.named() + ", else ")
                + named.name(where.destination());
    }

    private static String permissions(Where where) {
        String table = where.upkeep().mayMake() ? "may make the table" : "may not make the table";
        String columns = where.upkeep().mayAddColumns() ? "may add columns" : "may not add columns";
        String given =
                where.mode() instanceof WriteMode.Call call && !call.columns().isEmpty()
                        ? " with " + String.join(", ", call.arguments()) + " from " + String.join(", ", call.columns())
                        : "";
        return (where.mode() instanceof WriteMode.Insert ? "" : where.mode().words() + given + ", ") + table + ", "
                + columns
                + (where.mark() ? ", keeps a delivery mark" : "")
                + (where.upkeep().age().isEmpty() ? "" : ", " + where.upkeep().age())
                + (where.standbyFor().isEmpty() ? "" : ", only while another destination is away");
    }
}
