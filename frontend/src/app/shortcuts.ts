/* Every keyboard shortcut, as the sheet on “?” lists them. */

export const SHORT_CUTS: { title: string; keys: [chord: string, what: string][] }[] = [
  {
    title: "Everywhere",
    keys: [
      ["Ctrl K", "Find a run, or do something"],
      ["?", "This sheet"],
      ["F1", "The guide, beside the work"],
      ["Esc", "Close, or clear the selection"],
    ],
  },
  {
    title: "In a run",
    keys: [
      ["Arrows", "Move among readings or wells"],
      ["X", "Exclude with a reason, or include again"],
      ["A", "Say what something is"],
      ["Ctrl Z", "Undo, without limit"],
      ["Ctrl Y", "Redo"],
    ],
  },
  {
    title: "On a plate",
    keys: [
      ["Shift + arrows", "Select more wells"],
      ["Ctrl A", "Select the whole plate"],
      ["E", "Select the edge wells"],
      ["D", "Dilution series over the selection"],
      ["N", "Number samples over the selection"],
      ["B", "Blanks"],
      ["V", "Vehicle wells, or controls of counts"],
      ["F", "Full-effect wells"],
      ["Delete", "Remove the role"],
    ],
  },
  {
    title: "In the typing grid",
    keys: [
      ["Enter, Tab", "Down, across"],
      ["F2", "Change the cell"],
      ["Ctrl D", "Fill down"],
      ["Ctrl E", "Fill series"],
    ],
  },
];
