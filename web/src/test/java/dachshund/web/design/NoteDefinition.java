package dachshund.web.design;

import dachshund.core.definition.Definition;

/** A kind of definition that exists in the tests alone: a note about another thing. */
public record NoteDefinition(String id, String name, String description, String about, String text)
        implements Definition {}
