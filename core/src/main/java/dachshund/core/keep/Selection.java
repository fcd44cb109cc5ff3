package dachshund.core.keep;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;

/**
 * Which tags a rule keeps: those that are ticked, and those that fit all that is named. Of what is named, empty is anything;
 * where nothing is named only the ticked ones are meant.
 *
 * @param ticked         tags one by one
 * @param source         id of a source
 * @param folder         a folder of tags, with those within it, its parts separated by " / "
 * @param equipmentClass id of a class: tags that equipment of it is mapped to
 * @param words          all of them appear in source, folder, name, description, labels or equipment
 */
public record Selection(List<TagRef> ticked, String source, String folder, String equipmentClass, String words) {

    public Selection {
        ticked = List.copyOf(ticked);
        source = source.strip();
        folder = folder.strip();
        equipmentClass = equipmentClass.strip();
        words = words.strip();
    }

    /** Tags one by one. */
    public static Selection ticked(Collection<TagRef> tags) {
        return new Selection(List.copyOf(tags), "", "", "", "");
    }

    /** Every tag of a source, also those that come. */
    public static Selection source(String id) {
        return new Selection(List.of(), id, "", "", "");
    }

    /** Whether tags are named by what they have in common: new ones that fit are kept as well. */
    public boolean byTerms() {
        return !(source.isEmpty() && folder.isEmpty() && equipmentClass.isEmpty() && words.isEmpty());
    }

    /** Whether a tag is meant at all. */
    public boolean empty() {
        return ticked.isEmpty() && !byTerms();
    }

    /**
     * Whether a tag fits what is named.
     *
     * @param machines what equipment is mapped to it
     */
    public boolean fits(SourceDefinition of, TagInfo tag, Collection<EquipmentDefinition> machines) {
        return byTerms()
                && (source.isEmpty() || source.equals(of.id()))
                && within(tag.path())
                && (equipmentClass.isEmpty()
                        || machines.stream()
                                .anyMatch(each -> each.equipmentClass().equals(equipmentClass)))
                && has(of, tag, machines);
    }

    private boolean within(String path) {
        return folder.isEmpty()
                || path.equalsIgnoreCase(folder)
                || path.toLowerCase(Locale.ROOT).startsWith(folder.toLowerCase(Locale.ROOT) + " / ");
    }

    private boolean has(SourceDefinition of, TagInfo tag, Collection<EquipmentDefinition> machines) {
        if (words.isEmpty()) {
            return true;
        }
        StringBuilder text = new StringBuilder(of.name() + " " + tag.path() + " " + tag.name() + " " + tag.description()
                + " " + String.join(" ", tag.labels()));
        machines.forEach(each -> text.append(' ').append(each.name()));
        String all = text.toString().toLowerCase(Locale.ROOT);
        return Stream.of(words.toLowerCase(Locale.ROOT).split("\\s+")).allMatch(all::contains);
    }
}
