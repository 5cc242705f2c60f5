using Glenfrost.Core.Profiles;

namespace Glenfrost.Core.Tests;

public class OldNotesTests
{
    private static readonly DateTime Today = new(2026, 11, 23, 0, 0, 0, DateTimeKind.Utc);
    private static readonly Named Heath = new(Guid.NewGuid(), ["Brackenfell Heath", "Heath"]);
    private static readonly Named Sill = new(Guid.NewGuid(), ["Ninepin Sill", "Sill"]);
    private static readonly NamedToolhead Dunnock = new(Guid.NewGuid(), ["Dunnock 180"], 170, 240, 90);
    private static readonly NamedToolhead Left = new(Guid.NewGuid(), ["Ptarmigan 350 left", "Ptarmigan 350"], 170, 300, 110);
    private static readonly NamedToolhead Right = new(Guid.NewGuid(), ["Ptarmigan 350 right", "Ptarmigan 350"], 170, 300, 110);
    private static readonly string?[] Mapping = ["filament", "toolhead", "date", "nozzleTemperatureC", "extrusionMultiplier", "note"];

    private static (OldNote? Note, IReadOnlyDictionary<int, string> Errors) Read(params string[] cells) =>
        OldNotes.Read(cells, Mapping, DayForm.DayFirst, [Heath, Sill], [Dunnock, Left, Right], Today);

    [Fact]
    public void A_row_is_understood_with_comma_unit_and_per_cent()
    {
        var (note, errors) = Read(" heath ", "DUNNOCK-180", "31.3.2025", "212,4 °C", "97,5 %", "dry spool");
        Assert.Empty(errors);
        Assert.Equal((Heath.Id, Dunnock.Id, new DateTime(2025, 3, 31, 0, 0, 0, DateTimeKind.Utc)), (note!.FilamentId, note.ToolheadId, note.Date));
        Assert.Equal(212, note.Settings["nozzleTemperatureC"]);
        Assert.Equal(0.975, note.Settings["extrusionMultiplier"], 12);
        Assert.Equal("dry spool", note.Note);
    }

    [Theory]
    [InlineData(0, "Heth", "Nearest: Brackenfell Heath")]
    [InlineData(0, "", "empty")]
    [InlineData(1, "Ptarmigan 350", "Ptarmigan 350 left or Ptarmigan 350 right")]
    [InlineData(2, "2025-03-31", "31.3.2025")]
    [InlineData(2, "1.1.2031", "future")]
    [InlineData(3, "hot", "not a number")]
    [InlineData(3, "265", "limits of 170 to 240")]
    [InlineData(4, "14", "0.3 and 1.5")]
    public void What_is_wrong_stands_at_its_column(int column, string text, string says)
    {
        string[] cells = ["Heath", "Dunnock 180", "31.3.2025", "212", "0.97", ""];
        cells[column] = text;
        var (note, errors) = Read(cells);
        Assert.Null(note);
        Assert.Contains(says, errors[column]);
    }

    [Fact]
    public void Empty_cells_say_nothing_and_an_empty_row_is_told()
    {
        Assert.Empty(Read("Heath", "Dunnock 180", "", "", "-", "kept").Note!.Settings);
        Assert.Contains("says nothing", Read("Heath", "Dunnock 180", "", "", "", "").Errors.Values.Single());
    }

    [Fact]
    public void Column_names_are_guessed_and_none_twice()
    {
        Assert.Equal(["date", "toolhead", "filament", "nozzleTemperatureC", "bedTemperatureC", "firstLayerBedTemperatureC", "retractionLengthMm", null, "note"],
            OldNotes.Guess(["Date", "Printer", "Material", "Nozzle temp", "Bed", "Bed, first layer", "retraction", "colour of the sky", "Remarks"]));
        Assert.Equal(["extrusionMultiplier", "pressureAdvance", null], OldNotes.Guess(["extrusionMultiplier", "K", "k"]));
    }

    [Fact]
    public void A_mapping_needs_filament_toolhead_and_something_to_keep()
    {
        Assert.Empty(OldNotes.Check(Mapping));
        Assert.Equal(3, OldNotes.Check([null, "date"]).Count);
        Assert.Contains("Two columns", OldNotes.Check(["filament", "toolhead", "fanPercent", "fanPercent"]).Single().Message);
        Assert.Empty(OldNotes.Check(["filament", "toolhead", "note", "note"]));
    }
}
