package dachshund.core.source;

import dachshund.core.reach.Outside;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/** One protocol: describes its settings, from which the pages are made, and opens links. A new protocol is one of these. */
public interface LinkKind {

    /** Short name kept in definitions, such as {@code opcua}. */
    String id();

    /** Name for people. */
    String title();

    /** What it is for, in a sentence, beside the choice of kinds. */
    String purpose();

    List<SettingField> settings();

    /** What describes a tag besides name, kind, unit and description; empty where tags are only found by browsing. */
    default List<SettingField> tagFields() {
        return List.of();
    }

    /** Whether the source can be asked what it offers. */
    default boolean browses() {
        return true;
    }

    /** Whether tags are described by hand or by CSV. */
    default boolean describes() {
        return !tagFields().isEmpty();
    }

    /** Whether there is something outside to connect to and to test. */
    default boolean outside() {
        return true;
    }

    /** Whether messages can be published to it. */
    default boolean publishes() {
        return false;
    }

    /** A sentence on what is wrong with the description of a tag as a whole; empty where nothing is. */
    default String tagProblem(TagInfo tag) {
        return "";
    }

    /** The kind of value that a description gives; the tag's own kind where the description does not say. */
    default TagInfo described(TagInfo tag) {
        return tag;
    }

    /** A field of a tag's description as a person reads it in a table. */
    default String shown(SettingField field, TagInfo tag) {
        return tag.how().getOrDefault(field.name(), "");
    }

    PlantLink open(Opening opening);

    /**
     * What a link is opened with.
     *
     * @param source   id of the source
     * @param settings values by {@link SettingField#name}, secrets in clear
     * @param rate     how often values are wanted
     * @param clock    stamps what is received
     * @param outside  asked before each connection
     */
    record Opening(String source, Map<String, String> settings, Duration rate, PlantClock clock, Outside outside) {

        /** One that may reach everything. */
        public Opening(String source, Map<String, String> settings, Duration rate, PlantClock clock) {
            this(source, settings, rate, clock, Outside.ANYWHERE);
        }

        /** @throws LinkProblem with a sentence, where no connection may go there */
        public void check(String host, int port) throws LinkProblem {
            try {
                outside.check(host, port);
            } catch (Outside.Refused refused) {
                throw new LinkProblem(refused.getMessage(), refused);
            }
        }

        /** A setting, empty where it is not set. */
        public String setting(String name) {
            return settings.getOrDefault(name, "").strip();
        }

        public int whole(String name, int otherwise) {
            return setting(name).isEmpty() ? otherwise : Integer.parseInt(setting(name));
        }

        public boolean on(String name) {
            return setting(name).equals("true");
        }
    }
}
