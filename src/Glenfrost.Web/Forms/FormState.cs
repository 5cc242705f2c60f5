using System.Globalization;
using Glenfrost.Core.Settings;
using Microsoft.Extensions.Primitives;

namespace Glenfrost.Web.Forms;

/// <summary>
/// A form as it was typed: texts, messages and offers by field. A refused form is shown again from it, so nothing typed is lost.
/// </summary>
public sealed class FormState
{
    private const int LongestText = 4000;

    /// <summary>Field name to the text that was typed or is to be shown.</summary>
    public Dictionary<string, string> Values { get; } = [];

    /// <summary>Field name to its message.</summary>
    public Dictionary<string, string> Errors { get; } = [];

    /// <summary>Field name to offers that fit.</summary>
    public Dictionary<string, IReadOnlyList<Offer>> Offers { get; } = [];

    /// <summary>A message for the whole form.</summary>
    public string? Notice { get; set; }

    /// <summary>True while no field was refused.</summary>
    public bool IsGood => Errors.Count == 0;

    public string this[string name]
    {
        get => Values.GetValueOrDefault(name, "");
        set => Values[name] = value;
    }

    /// <summary>Takes over what was posted.</summary>
    public static FormState From(IEnumerable<KeyValuePair<string, StringValues>> form)
    {
        var state = new FormState();
        foreach (var (name, value) in form.Where(f => f.Key != "__RequestVerificationToken"))
            state.Values[name] = value.ToString();
        return state;
    }

    /// <summary>Refuses a field; the first message stays.</summary>
    public void Refuse(string name, string message, IReadOnlyList<Offer>? offers = null)
    {
        if (Errors.TryAdd(name, message) && offers is { Count: > 0 })
            Offers[name] = offers;
    }

    /// <summary>A text of at most <paramref name="longest"/> characters; null where empty.</summary>
    public string? Text(string name, string label, int longest = 120, bool required = false)
    {
        var text = this[name].Replace("\r\n", "\n").Trim();
        if (text.Length == 0)
        {
            if (required)
                Refuse(name, $"{label} is empty. Type it as it stands on the label or as you call it.");
            return null;
        }

        if (text.Length > longest)
            Refuse(name, $"{label} has {text.Length} characters; at most {longest} fit here. Nothing was cut off.");
        else if (text.Any(c => char.IsControl(c) && c != '\n' && c != '\t'))
            Refuse(name, $"{label} holds a control character. Type it without.");
        return text;
    }

    /// <summary>A long text, for example start code.</summary>
    public string? LongText(string name, string label) => Text(name, label, LongestText);

    /// <summary>A number in the quantity's unit; null where empty and not required, or refused.</summary>
    public decimal? Number(string name, Quantity quantity, bool required = false)
    {
        if (this[name].Trim().Length == 0 && !required)
            return null;
        var parsed = quantity.Parse(this[name]);
        if (parsed.Error is not null)
            Refuse(name, parsed.Error);
        return parsed.Value;
    }

    /// <summary>As <see cref="Number"/>, as a double.</summary>
    public double? Double(string name, Quantity quantity, bool required = false) => (double?)Number(name, quantity, required);

    /// <summary>One of the given words.</summary>
    public string Choice(string name, string label, IReadOnlyCollection<string> words, string? fallback = null)
    {
        var word = this[name].Trim();
        if (word.Length == 0 && fallback is not null)
            return fallback;
        if (!words.Contains(word))
            Refuse(name, $"Choose {label.ToLowerInvariant()}: {string.Join(", ", words.Take(12))}.");
        return word;
    }

    /// <summary>A record's id; null where empty.</summary>
    public Guid? Id(string name, string label, bool required = false)
    {
        var text = this[name].Trim();
        if (text.Length == 0)
        {
            if (required)
                Refuse(name, $"Choose {label}.");
            return null;
        }

        if (Guid.TryParse(text, out var id))
            return id;
        Refuse(name, $"Choose {label} from the list.");
        return null;
    }

    /// <summary>A day or a time as browsers send it; null where empty.</summary>
    public DateTime? Date(string name, string label, DateTime now)
    {
        var text = this[name].Trim();
        if (text.Length == 0)
            return null;
        if (!DateTime.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var date))
        {
            Refuse(name, $"\"{(text.Length > 40 ? text[..40] + "…" : text)}\" is not a date. Type it as 2026-11-23.");
            return null;
        }

        if (date > now.AddDays(1) || date.Year < 2000)
            Refuse(name, $"{label} lies {(date.Year < 2000 ? "before 2000" : "in the future")}; a day until today would be right.");
        return date;
    }

    /// <summary>True for a ticked box.</summary>
    public bool Ticked(string name) => this[name].ToLowerInvariant() is "1" or "true" or "on" or "yes";

    /// <summary>Puts a number in as text.</summary>
    public void Put(string name, double? value) => this[name] = value?.ToString("0.######", CultureInfo.InvariantCulture) ?? "";

    /// <summary>Puts a number in as text.</summary>
    public void Put(string name, decimal? value) => this[name] = value?.ToString("0.######", CultureInfo.InvariantCulture) ?? "";

    /// <summary>Puts a text in.</summary>
    public void Put(string name, string? value) => this[name] = value ?? "";

    /// <summary>Puts a day in.</summary>
    public void Put(string name, DateTime? value) => this[name] = value?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) ?? "";
}
