package dachshund.engine.answer;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;

/** The plant as a run reaches it. From any thread. */
public interface PlantSide {

    /** Where there is no plant: nothing is known, and nothing can be told. */
    PlantSide NONE = new PlantSide() {
        @Override
        public TagValue now(TagRef tag) {
            return TagValue.NONE;
        }

        @Override
        public TagValue lastGood(TagRef tag) {
            return TagValue.NONE;
        }

        @Override
        public String write(TagRef tag, Object value, double tolerance, String by) {
            throw new IllegalArgumentException("There is no plant.");
        }

        @Override
        public void publish(String source, String topic, String payload, boolean retained) {
            throw new IllegalArgumentException("There is no plant.");
        }
    };

    /** The latest value of a tag. */
    TagValue now(TagRef tag);

    TagValue lastGood(TagRef tag);

    /**
     * Writes a tag and reads it back.
     *
     * @param value     Boolean, Number, String or Instant
     * @param tolerance by how much a number may differ from what is read back
     * @param by        what writes it
     * @return what was read back, in words
     * @throws IllegalArgumentException with a sentence, where it was refused, or reads back otherwise
     */
    String write(TagRef tag, Object value, double tolerance, String by);

    /**
     * Publishes a message.
     *
     * @param source   id of the broker's source
     * @param retained whether the broker keeps it for whoever listens later
     * @throws IllegalArgumentException with a sentence, where the broker did not take it
     */
    void publish(String source, String topic, String payload, boolean retained);
}
