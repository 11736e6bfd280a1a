package org.ysteron.sql;

import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.lang.syntax.ArchRuleDefinition;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The rooms of this module: what may use what, and how large they are. */
class SqlRoomsTest {
  private static final String ROOT = "org.ysteron.sql";

  /** From the top down; a room may use those below it. */
  private static final List<String> ROOMS =
      List.of(
          "",
          "plan",
          "explain",
          "catalog",
          "inside",
          "join",
          "window",
          "run",
          "aggregate",
          "keep",
          "text");

  private static final int MOST_FILES = 25;
  private static final int MOST_LINES = 600;

  private static final JavaClasses CLASSES =
      new ClassFileImporter()
          .importUrl(SqlQuery.class.getProtectionDomain().getCodeSource().getLocation())
          .that(resideInAPackage(ROOT + ".."));

  private static String packageOf(String room) {
    return room.isEmpty() ? ROOT : ROOT + "." + room;
  }

  @Test
  void roomsUseOnlyRoomsBelowThem() {
    var rooms = layeredArchitecture().consideringOnlyDependenciesInLayers();
    for (String room : ROOMS) {
      rooms = rooms.layer("room " + room).definedBy(packageOf(room));
    }
    rooms = rooms.whereLayer("room ").mayNotBeAccessedByAnyLayer();
    for (int i = 1; i < ROOMS.size(); i++) {
      String[] above = ROOMS.subList(0, i).stream().map(r -> "room " + r).toArray(String[]::new);
      rooms = rooms.whereLayer("room " + ROOMS.get(i)).mayOnlyBeAccessedByLayers(above);
    }
    rooms.check(CLASSES);
    slices().matching(ROOT + ".(*)..").should().beFreeOfCycles().check(CLASSES);
  }

  @Test
  void whatRunsQueriesKnowsNoTextAndNoPlanner() {
    ArchRuleDefinition.noClasses()
        .that()
        .resideInAnyPackage(
            ROOT + ".run", ROOT + ".window", ROOT + ".join", ROOT + ".aggregate", ROOT + ".keep")
        .should()
        .dependOnClassesThat()
        .resideInAnyPackage("org.apache.calcite..", ROOT + ".text", ROOT + ".plan")
        .check(CLASSES);
  }

  @Test
  void roomsAndFilesAreSmall() throws IOException {
    for (String room : ROOMS) {
      try (Stream<Path> files =
          Files.list(Path.of("src/main/java", packageOf(room).split("\\.")))) {
        List<Path> sources = files.filter(file -> file.toString().endsWith(".java")).toList();
        assertThat(sources).as(room).hasSizeLessThanOrEqualTo(MOST_FILES + 1);
        for (Path file : sources) {
          try (Stream<String> lines = Files.lines(file)) {
            assertThat(lines.count()).as(file.toString()).isLessThanOrEqualTo(MOST_LINES);
          }
        }
      }
    }
  }
}
