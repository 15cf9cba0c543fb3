/** How a patch of a legend, or a bar of the same meaning, is filled: a pattern as well as a hue. */
export const LOOKS: Record<string, string> = {
  short: "repeating-linear-gradient(135deg, #c9602f 0 3px, #8c2a0c 3px 5px)",
  over: "radial-gradient(#1f4e8c 35%, #b6d0ec 37%) 0 0/6px 6px",
  taken: "radial-gradient(#1f4e8c 35%, #b6d0ec 37%) 0 0/6px 6px",
  doubt: "repeating-linear-gradient(0deg, #e9d990 0 3px, #f0ead0 3px 6px)",
  unseen: "radial-gradient(#5d5d64 35%, #b3b3b6 37%) 0 0/5px 5px",
  meets: "#d7e6da",
  gap: "repeating-linear-gradient(90deg, #cfe0d4 0 6px, #3c6152 6px 7px)",
  contact: "repeating-conic-gradient(#4d1f5c 0 25%, #9e7aa8 0 50%) 0 0/6px 6px",
  lozenge: `url("data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 24 14'%3E%3Cpath d='M12 1 18 7 12 13 6 7Z' fill='%234d1f5c'/%3E%3C/svg%3E") center / contain no-repeat`,
  shadow: "repeating-linear-gradient(45deg, #8c2a0c99 0 3px, transparent 3px 6px)",
  line: "linear-gradient(#0f3d38, #0f3d38) 0 45%/100% 4px no-repeat",
  dashed: "repeating-linear-gradient(90deg, #0f3d38 0 4px, transparent 4px 8px) 0 45%/100% 4px no-repeat",
};
