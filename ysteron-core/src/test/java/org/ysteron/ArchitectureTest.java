package org.ysteron;

import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.library.Architectures.LayeredArchitecture;
import java.util.List;
import org.junit.jupiter.api.Test;

class ArchitectureTest {
  /** From the top down; a room may use those below it. */
  private static final List<String> ROOMS =
      List.of(
          "intake", "change", "read", "commit", "table", "file", "tree", "expr", "data", "store",
          "error");

  private static final JavaClasses CLASSES =
      new ClassFileImporter()
          .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
          .importPackages("org.ysteron");

  @Test
  void roomsUseOnlyRoomsBelowThem() {
    LayeredArchitecture rooms = layeredArchitecture().consideringOnlyDependenciesInLayers();
    rooms = rooms.layer("root").definedBy("org.ysteron");
    for (String room : ROOMS) {
      rooms = rooms.layer(room).definedBy("org.ysteron." + room);
    }
    for (int i = 0; i < ROOMS.size(); i++) {
      String[] above = new String[i + 1];
      above[0] = "root";
      for (int j = 0; j < i; j++) {
        above[j + 1] = ROOMS.get(j);
      }
      rooms = rooms.whereLayer(ROOMS.get(i)).mayOnlyBeAccessedByLayers(above);
    }
    rooms.check(CLASSES);
  }

  @Test
  void noRoomsUseEachOther() {
    slices().matching("org.ysteron.(*)..").should().beFreeOfCycles().check(CLASSES);
  }

  @Test
  void filesOfTheDiskAreKnownToTheStoreOnly() {
    noClasses()
        .that(
            resideInAPackage("org.ysteron..")
                .and(
                    com.tngtech.archunit.base.DescribedPredicate.not(
                        resideInAPackage("org.ysteron.store"))))
        .should()
        .dependOnClassesThat()
        .haveFullyQualifiedName("java.io.File")
        .check(CLASSES);
  }

  @Test
  void theCoreTalksToNoTerminal() {
    noClasses()
        .should()
        .accessField(System.class, "out")
        .orShould()
        .accessField(System.class, "err")
        .check(CLASSES);
    assertThat(CLASSES.size()).isGreaterThan(100);
  }
}
